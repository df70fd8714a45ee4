import { OrvidError } from '@/core/errors';
import type { MeasuredRecording } from '@/core/measure';
import { fileHash, recordingIdOf } from '../audio/checksum';
import { withDecodedAudio } from '../audio/decode';
import { resample } from '../audio/resample';
import { writePages } from '../audio/write-pages';

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
    return await withDecodedAudio(task.source, async (audio) => {
      const step =
        audio.rateHz === task.rateHz ? 'decoding' : `converting ${audio.rateHz / 1000} to ${task.rateHz / 1000} kHz`;
      const blocks = resample(audio.blocks, audio.channels, audio.rateHz, task.rateHz);
      const shape = { channels: audio.channels, rateHz: task.rateHz };
      const { lengthFrames, pageChecksums, measured } = await writePages(task.pages, blocks, shape, () =>
        report(step, audio.progress()),
      );
      if (lengthFrames === 0) throw new OrvidError('unreadable-audio', 'it holds no samples');
      return {
        originalHash,
        audioId: recordingIdOf(originalHash, task.rateHz),
        format: audio.format,
        channels: audio.channels as 1 | 2,
        originalRateHz: audio.rateHz,
        lengthFrames,
        pageChecksums,
        measured,
      };
    });
  } catch (thrown) {
    if (!(thrown instanceof OrvidError) || thrown.code !== 'unreadable-audio') throw thrown;
    throw new OrvidError(
      'unreadable-audio',
      `“${task.fileName}” could not be read: ${thrown.message}.`,
      'The song and the other files are as they were. Export the file again as WAV or FLAC and drop it once more.',
    );
  }
}
