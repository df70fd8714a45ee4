import { open, type FileHandle } from 'node:fs/promises';
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

/** Writes pages of planar samples into a new file. */
export class PageWriter {
  /** Frames so far. */
  lengthFrames = 0;
  /** Of the pages so far, see `page-file.ts`. */
  pageChecksums = '';
  private readonly page: Float32Array[];
  private filled = 0;

  private constructor(
    private readonly file: FileHandle,
    channels: number,
    private readonly bits: SampleBits,
  ) {
    this.page = Array.from({ length: channels }, () => new Float32Array(PAGE_FRAMES));
  }

  /** Begins a file, which must not be there yet. */
  static async begin(file: string, channels: number, bits: SampleBits): Promise<PageWriter> {
    return new PageWriter(await open(file, 'wx'), channels, bits);
  }

  /** @param block an array for each channel. @throws NotSoFewBits */
  async push(block: readonly ArrayLike<number>[], frames = block[0].length): Promise<void> {
    for (let at = 0; at < frames;) {
      const run = Math.min(frames - at, PAGE_FRAMES - this.filled);
      this.page.forEach((channel, c) => copySamples(block[c], at, channel, this.filled, run));
      this.filled += run;
      at += run;
      this.lengthFrames += run;
      if (this.filled === PAGE_FRAMES) await this.flush();
    }
  }

  private async flush(): Promise<void> {
    const packed = this.page.map((channel) => packSamples(channel.subarray(0, this.filled), this.bits));
    if (!packed.every((bytes) => bytes !== null)) throw new NotSoFewBits();
    const bytes = Buffer.concat(packed);
    this.pageChecksums += crc32Text(bytes);
    await this.file.write(bytes);
    this.filled = 0;
  }

  /** Writes what is left; all of it is on the disk then. */
  async finish(): Promise<void> {
    if (this.filled > 0) await this.flush();
    await this.file.sync();
  }

  close(): Promise<void> {
    return this.file.close();
  }
}

/**
 * Writes a recording as pages and measures it on the way.
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
  const pages = await PageWriter.begin(file, shape.channels, shape.bits);
  try {
    for await (const block of blocks) {
      if (!areNumbers(block)) throw new OrvidError('unreadable-audio', 'it holds samples that are no numbers');
      checkLength(pages.lengthFrames + block[0].length, shape.rateHz);
      analyser.push(block);
      await pages.push(block);
      afterBlock(pages.lengthFrames);
    }
    await pages.finish();
  } finally {
    await pages.close();
  }
  const { lengthFrames, pageChecksums } = pages;
  return { lengthFrames, pageChecksums, measured: analyser.finish() };
}
