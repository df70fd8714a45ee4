import { open } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import {
  frameBytes,
  isAiff,
  NO_NOTES,
  readAiffHeader,
  readFileNotes,
  readWavHeader,
  swapBytes,
  wavHeader,
  type AiffInfo,
  type ReadAt,
  type RecordingNotes,
  type WavInfo,
} from '@/core/formats';
import { PieceWriter } from '../render/write-wav';

/** A WAV or AIFF file with more than two channels, or one that does not begin with the song, becomes plain WAV files that do. */

/** Channels of one file that become tracks. */
export const MOST_CHANNELS = 64;
const PIECE_FRAMES = 1 << 15;

export interface PcmFacts {
  info: WavInfo | AiffInfo;
  notes: RecordingNotes;
}

/** Reads pieces of a file; null where its format says no. */
async function readPieces<T>(file: string, read: (readAt: ReadAt, size: number) => Promise<T>): Promise<T | null> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const readAt = async (from: number, length: number) => {
      const bytes = new Uint8Array(length);
      return bytes.subarray(0, (await handle.read(bytes, 0, length, from)).bytesRead);
    };
    return await read(readAt, size);
  } catch (thrown) {
    if (thrown instanceof OrvidError) return null;
    throw thrown;
  } finally {
    await handle.close();
  }
}

/** What a file is, where it is a WAV or AIFF file; null for any other, and for one that cannot be read: its decoder says why. */
export const pcmFacts = (file: string): Promise<PcmFacts | null> =>
  readPieces(file, async (readAt, size) => {
    const readHeader = isAiff(await readAt(0, 12)) ? readAiffHeader : readWavHeader;
    return { info: await readHeader(readAt, size), notes: await readFileNotes(readAt, size) };
  });

/** What a file says of itself beside its sound, as far as its format has a place for it. */
export const fileNotes = async (file: string): Promise<RecordingNotes> =>
  (await readPieces(file, readFileNotes)) ?? NO_NOTES;

/**
 * Writes groups of a file's channels as WAV files of its own sample format, value for value, after some silence.
 * @param groups for each file the channels that it has; @param outs where they are written: they must not exist
 * @param leadFrames of silence, at the file's own rate
 */
export async function splitChannels(
  file: string,
  info: PcmFacts['info'],
  groups: readonly (readonly number[])[],
  outs: readonly string[],
  leadFrames: number,
  signal?: AbortSignal,
): Promise<void> {
  const { channels, rateHz, format, dataStart, frames } = info;
  const isTurned = 'isBigEndian' in info && info.isBigEndian;
  const sampleBytes = frameBytes({ channels: 1, format });
  const source = await open(file, 'r');
  const writers: PieceWriter[] = [];
  try {
    for (const [i, group] of groups.entries()) {
      const writer = await PieceWriter.open(outs[i]);
      writers.push(writer);
      await writer.add(wavHeader({ channels: group.length, rateHz, format, frames: leadFrames + frames }));
      for (let left = leadFrames; left > 0; left -= PIECE_FRAMES)
        await writer.add(new Uint8Array(Math.min(left, PIECE_FRAMES) * group.length * sampleBytes));
    }
    const piece = new Uint8Array(PIECE_FRAMES * channels * sampleBytes);
    for (let at = 0; at < frames; at += PIECE_FRAMES) {
      signal?.throwIfAborted();
      const wanted = Math.min(PIECE_FRAMES, frames - at) * channels * sampleBytes;
      const { bytesRead } = await source.read(piece, 0, wanted, dataStart + at * channels * sampleBytes);
      const count = Math.floor(bytesRead / (channels * sampleBytes));
      if (isTurned) swapBytes(piece.subarray(0, bytesRead), sampleBytes);
      for (const [i, group] of groups.entries()) {
        const bytes = new Uint8Array(count * group.length * sampleBytes);
        let to = 0;
        for (let n = 0; n < count; n++)
          for (const channel of group) {
            const from = (n * channels + channel) * sampleBytes;
            for (let byte = 0; byte < sampleBytes; byte++) bytes[to++] = piece[from + byte];
          }
        await writers[i].add(bytes);
      }
    }
    for (const writer of writers) await writer.finish();
  } finally {
    await Promise.all([source, ...writers].map((file) => file.close()));
  }
}
