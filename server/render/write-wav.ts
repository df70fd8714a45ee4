import { open } from 'node:fs/promises';
import { frameBytes, PcmEncoder, wavHeader, type RenderFormat } from '@/core/formats';

/** A piece of sound on its way to a file: planar samples, of which the first `frames` count. */
export interface SoundBlock {
  samples: readonly ArrayLike<number>[];
  frames: number;
}
/** The same as 32-bit floats, interleaved, for a file of their kind: it must not be changed after it was handed over. */
export interface FloatBlock {
  interleaved: Float32Array;
}

const asBytes = ({ buffer, byteOffset, byteLength }: Float32Array) => new Uint8Array(buffer, byteOffset, byteLength);
const BUFFER_BYTES = 1 << 20;

/**
 * Writes a WAV file piece by piece. The file must not exist yet; its header is completed at the end.
 * @returns the frames written, and how many samples had to be clipped at full scale (integers only)
 */
export async function writeWav(
  file: string,
  shape: { channels: number; rateHz: number; format: RenderFormat },
  blocks: Iterable<SoundBlock> | AsyncIterable<SoundBlock | FloatBlock>,
): Promise<{ frames: number; clippedSamples: number }> {
  const encoder = new PcmEncoder(shape.channels, shape.format);
  const out = await open(file, 'wx');
  let waiting: Uint8Array[] = [wavHeader({ ...shape, frames: 0 })];
  let waitingBytes = 0;
  let dataBytes = 0;
  let totalFrames = 0;
  let writing: Promise<unknown> = Promise.resolve();
  /** Hands on what waits once the last piece is written; the next is computed meanwhile. */
  const flush = async () => {
    await writing;
    writing = out.writev(waiting);
    writing.catch(() => undefined); // whoever awaits it next is told
    waiting = [];
    waitingBytes = 0;
  };
  try {
    for await (const block of blocks) {
      const bytes = 'interleaved' in block ? asBytes(block.interleaved) : encoder.encode(block.samples, block.frames);
      waiting.push(bytes);
      waitingBytes += bytes.length;
      dataBytes += bytes.length;
      totalFrames += bytes.length / frameBytes(shape);
      if (waitingBytes >= BUFFER_BYTES) await flush();
    }
    if (dataBytes % 2 === 1) waiting.push(new Uint8Array(1));
    await flush();
    await writing;
    const header = wavHeader({ ...shape, frames: totalFrames });
    await out.write(header, 0, header.length, 0);
    await out.sync();
  } finally {
    await out.close();
  }
  return { frames: totalFrames, clippedSamples: encoder.clippedSamples };
}
