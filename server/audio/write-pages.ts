import { open } from 'node:fs/promises';
import { crc32Text } from './checksum';
import { PAGE_FRAMES, packSamples, type SampleBits } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import { RecordingAnalyser, type MeasuredRecording } from '@/core/measure';
import { checkLength } from './length';

/** A sum of zeros is no number where one of them was none, or was infinite. */
function areNumbers(block: readonly ArrayLike<number>[]): boolean {
  let zeros = 0;
  for (const samples of block) for (let n = 0; n < samples.length; n++) zeros += samples[n] * 0;
  return zeros === 0;
}

function copySamples(from: ArrayLike<number>, at: number, to: Float32Array, place: number, count: number): void {
  if (from instanceof Float32Array || from instanceof Float64Array) to.set(from.subarray(at, at + count), place);
  else for (let n = 0; n < count; n++) to[place + n] = from[at + n];
}

/** A recording holds samples that are no whole numbers of the size that its file is said to be made of. */
export class NotSoFewBits extends Error {}

/**
 * Writes a recording as pages of planar samples and measures it on the way.
 * @param blocks one array per channel
 * @param shape with the bits in which samples are written
 * @throws OrvidError `unreadable-audio` for samples that are no numbers, and for more than the limit; NotSoFewBits
 * @param afterBlock is called as it goes on, with the frames written so far
 */
export async function writePages(
  file: string,
  blocks: AsyncIterable<ArrayLike<number>[]>,
  shape: { channels: number; rateHz: number; bits: SampleBits },
  afterBlock: (frames: number) => void = () => undefined,
): Promise<{ lengthFrames: number; pageChecksums: string; measured: MeasuredRecording }> {
  const analyser = new RecordingAnalyser(shape.rateHz, shape.channels);
  const page = Array.from({ length: shape.channels }, () => new Float32Array(PAGE_FRAMES));
  let filled = 0;
  let lengthFrames = 0;
  let pageChecksums = '';
  const out = await open(file, 'wx');
  const flush = async () => {
    const packed = page.map((channel) => packSamples(channel.subarray(0, filled), shape.bits));
    if (!packed.every((bytes) => bytes !== null)) throw new NotSoFewBits();
    const bytes = Buffer.concat(packed);
    pageChecksums += crc32Text(bytes);
    await out.write(bytes);
    filled = 0;
  };
  try {
    for await (const block of blocks) {
      if (!areNumbers(block)) throw new OrvidError('unreadable-audio', 'it holds samples that are no numbers');
      checkLength(lengthFrames + block[0].length, shape.rateHz);
      analyser.push(block);
      for (let at = 0; at < block[0].length;) {
        const run = Math.min(block[0].length - at, PAGE_FRAMES - filled);
        for (let c = 0; c < shape.channels; c++) copySamples(block[c], at, page[c], filled, run);
        filled += run;
        at += run;
        lengthFrames += run;
        if (filled === PAGE_FRAMES) await flush();
      }
      afterBlock(lengthFrames);
    }
    if (filled > 0) await flush();
    await out.sync();
  } finally {
    await out.close();
  }
  return { lengthFrames, pageChecksums, measured: analyser.finish() };
}
