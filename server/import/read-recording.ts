import { recordingIdOf } from '../audio/checksum';
import { keepMeasured } from '../audio/measured';
import { faultOf } from '../audio/mending';
import { discard, findAudio, pagesPath, registerAudio, settle, temporaryPath } from '../audio/store';
import { database } from '../database/client';
import type { Report } from '../jobs/jobs';
import { runInWorker } from '../workers/pool';
import type { DecodedRecording } from './decode-recording';

/** What a track needs to know of its recording. */
type TrackRecording = Pick<DecodedRecording, 'audioId' | 'channels' | 'lengthFrames'>;

/** A file as it lies in the store. */
export interface ReadRecording {
  recording: TrackRecording;
  originalHash: string;
  /** True where it was there before, whole. */
  isFound: boolean;
}

/**
 * Brings a file into the store: its pages, and what is measured of it. What was read before, from the same content at the same rate, is not
 * read again unless it is damaged. The file itself stays where it is.
 * @param from where it lies, the name that messages use, the rate of the song, and its SHA-256 where that is known
 * @throws OrvidError `unreadable-audio` that names the file and the fault
 */
export async function readRecording(
  from: { file: string; fileName: string; rateHz: number; originalHash?: string },
  signal?: AbortSignal,
  report?: Report,
): Promise<ReadRecording> {
  const { file, fileName, rateHz } = from;
  const originalHash = from.originalHash ?? (await runInWorker<string>('hash', { file }, signal));
  const known = await wholeRecording(recordingIdOf(originalHash, rateHz));
  if (known) return { recording: known, originalHash, isFound: true };
  const pages = await temporaryPath();
  try {
    const task = { source: file, pages, fileName, rateHz, originalHash };
    const decoded = await runInWorker<DecodedRecording>('decode', task, signal, report);
    signal?.throwIfAborted();
    await keepRecording(decoded, { pages, fileName, rateHz });
    return { recording: decoded, originalHash, isFound: false };
  } finally {
    await discard(pages);
  }
}

/** A recording that was imported before, from the same content at the same rate, where it is not damaged. */
async function wholeRecording(audioId: string): Promise<TrackRecording | undefined> {
  const row = await findAudio(audioId);
  if (!row || (await faultOf(row))) return undefined;
  return { audioId, channels: row.channels as 1 | 2, lengthFrames: row.lengthFrames };
}

/** Puts a decoded recording into the store. */
export async function keepRecording(
  decoded: DecodedRecording,
  from: { pages: string; fileName: string; rateHz: number },
): Promise<void> {
  // Opened first: an empty database beside recordings is taken for one that was lost.
  await database();
  await settle(from.pages, pagesPath(decoded.audioId));
  const { measured, audioId, ...facts } = decoded;
  await registerAudio({ id: audioId, originalName: from.fileName, rateHz: from.rateHz, ...facts });
  await keepMeasured(audioId, measured);
}
