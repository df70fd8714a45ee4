import { open } from 'node:fs/promises';
import { frameBytes, PcmEncoder, wavHeader, type RenderFormat } from '@/core/formats';

/** A piece of sound on its way to a file: planar samples, of which the first `frames` count. */
export interface SoundBlock {
  samples: readonly ArrayLike<number>[];
  frames: number;
}
/** The same as 32-bit floats, interleaved, for a file of their kind: it must not be changed before it is given back. */
export interface FloatBlock {
  interleaved: Float32Array;
  giveBack?: () => void;
}

/** What was written to a file, and how many samples had to be clipped at full scale (integers only). */
export interface Written {
  frames: number;
  clippedSamples: number;
}

const asBytes = ({ buffer, byteOffset, byteLength }: Float32Array) => new Uint8Array(buffer, byteOffset, byteLength);
const BUFFER_BYTES = 1 << 20;
/** What lies in the system's memory is brought to the disk in pieces of this size, so that little is left to wait for at the end. */
const SYNC_BYTES = 16 << 20;

/** Writes a file in large pieces; the next is computed while one is written, and brought to the disk. */
export class PieceWriter {
  private waiting: Uint8Array[] = [];
  private waitingBytes = 0;
  private waitingToGiveBack: (() => void)[] = [];
  private writing: Promise<unknown> = Promise.resolve();
  private unsyncedBytes = 0;
  private syncing: Promise<void> | null = null;

  private constructor(private readonly out: Awaited<ReturnType<typeof open>>) {}

  /** @param file must not exist */
  static async open(file: string): Promise<PieceWriter> {
    return new PieceWriter(await open(file, 'wx'));
  }

  /** Takes bytes that will not change any more, or not before they are given back: when they are written. */
  async add(bytes: Uint8Array, giveBack?: () => void): Promise<void> {
    this.waiting.push(bytes);
    if (giveBack) this.waitingToGiveBack.push(giveBack);
    this.waitingBytes += bytes.length;
    if (this.waitingBytes >= BUFFER_BYTES) await this.flush();
  }

  private async flush(): Promise<void> {
    await this.writing;
    if (this.waiting.length === 0) return;
    const written = this.waitingToGiveBack;
    this.writing = this.out.writev(this.waiting).then(() => written.forEach((giveBack) => giveBack()));
    this.writing.catch(() => undefined); // whoever awaits it next is told
    this.unsyncedBytes += this.waitingBytes;
    this.waiting = [];
    this.waitingToGiveBack = [];
    this.waitingBytes = 0;
    if (this.unsyncedBytes >= SYNC_BYTES && !this.syncing) this.syncMeanwhile();
  }

  /** A system tells of a failure once: whoever finishes the file is told. */
  private syncMeanwhile(): void {
    this.unsyncedBytes = 0;
    this.syncing = this.out.datasync().then(() => {
      this.syncing = null;
    });
    this.syncing.catch(() => undefined);
  }

  /** Writes what waits, then other bytes in place of those that were written first. */
  async finish(head?: Uint8Array): Promise<void> {
    await this.flush();
    await this.writing;
    await this.syncing;
    if (head) await this.out.write(head, 0, head.length, 0);
    await this.out.sync();
  }

  close(): Promise<void> {
    return this.out.close();
  }
}

/**
 * Writes a WAV file piece by piece. The file must not exist yet; its header is completed at the end.
 * @param chunks what stands before the samples; asked for again at the end, in the same length, when all of the sound has gone by
 */
export async function writeWav(
  file: string,
  shape: { channels: number; rateHz: number; format: RenderFormat },
  blocks: Iterable<SoundBlock> | AsyncIterable<SoundBlock | FloatBlock>,
  chunks: () => Uint8Array = () => new Uint8Array(),
): Promise<Written> {
  const encoder = new PcmEncoder(shape.channels, shape.format);
  const out = await PieceWriter.open(file);
  let dataBytes = 0;
  let frames = 0;
  try {
    await out.add(wavHeader({ ...shape, frames: 0 }, chunks()));
    for await (const block of blocks) {
      const bytes = 'interleaved' in block ? asBytes(block.interleaved) : encoder.encode(block.samples, block.frames);
      dataBytes += bytes.length;
      frames += bytes.length / frameBytes(shape);
      await out.add(bytes, 'interleaved' in block ? block.giveBack : undefined);
    }
    if (dataBytes % 2 === 1) await out.add(new Uint8Array(1));
    await out.finish(wavHeader({ ...shape, frames }, chunks()));
  } finally {
    await out.close();
  }
  return { frames, clippedSamples: encoder.clippedSamples };
}
