import { rm } from 'node:fs/promises';
import type { SampleBits } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import type { MeasuredRecording } from '@/core/measure';
import { fileHash, recordingIdOf } from '../audio/checksum';
import { withDecodedAudio } from '../audio/decode';
import { resample } from '../audio/resample';
import { NotSoFewBits, writePages } from '../audio/write-pages';

export interface DecodeTask {
  /** The uploaded file. */
  source: string;
  /** Where the pages are written. */
  pages: string;
  /** The name that messages use. */
  fileName: string;
  /** The song's rate. */
  rateHz: number;
  /** SHA-256 of the file, where it is known. */
  originalHash?: string;
}

export interface DecodedRecording {
  originalHash: string;
  audioId: string;
  format: string;
  channels: 1 | 2;
  originalRateHz: number;
  lengthFrames: number;
  pageChecksums: string;
  sampleBits: SampleBits;
  measured: MeasuredRecording;
}

/**
 * Decodes an uploaded file, brings it to the song's rate, writes its pages and measures it.
 * @throws OrvidError `unreadable-audio` that names the file and the fault
 */
export async function decodeRecording(
  task: DecodeTask,
  report: (step: string, progress: number) => void,
): Promise<DecodedRecording> {
  try {
    report('reading', 0);
    const originalHash = task.originalHash ?? (await fileHash(task.source));
    return { originalHash, ...(await writeDecoded(task, originalHash, report)) };
  } catch (thrown) {
    if (!(thrown instanceof OrvidError) || thrown.code !== 'unreadable-audio') throw thrown;
    throw new OrvidError(
      'unreadable-audio',
      `“${task.fileName}” could not be read: ${thrown.message}.`,
      'The song and the other files are as they were. Export the file again as WAV or FLAC and drop it once more.',
    );
  }
}

type Written = Omit<DecodedRecording, 'originalHash'>;

/** @param atLeast bits in which its samples are written at least */
async function writeDecoded(
  task: DecodeTask,
  originalHash: string,
  report: (step: string, progress: number) => void,
  atLeast: SampleBits = 16,
): Promise<Written> {
  try {
    return await withDecodedAudio(task.source, async (audio) => {
      const isConverted = audio.rateHz !== task.rateHz;
      const step = isConverted ? `converting ${audio.rateHz / 1000} to ${task.rateHz / 1000} kHz` : 'decoding';
      const blocks = resample(audio.blocks, audio.channels as 1 | 2, audio.rateHz, task.rateHz);
      const sampleBits = isConverted || audio.bits < atLeast ? 32 : audio.bits;
      const shape = { channels: audio.channels, rateHz: task.rateHz, bits: sampleBits };
      const written = await writePages(task.pages, blocks, shape, () => report(step, audio.progress()));
      if (written.lengthFrames === 0) throw new OrvidError('unreadable-audio', 'it holds no samples');
      return {
        audioId: recordingIdOf(originalHash, task.rateHz),
        format: audio.format,
        channels: audio.channels as 1 | 2,
        originalRateHz: audio.rateHz,
        sampleBits,
        ...written,
      };
    });
  } catch (thrown) {
    if (!(thrown instanceof NotSoFewBits)) throw thrown;
    // The file holds something else than it says of itself: nothing of it is rounded.
    await rm(task.pages, { force: true });
    return writeDecoded(task, originalHash, report, 32);
  }
}
