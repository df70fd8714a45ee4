import { frameBytes, type RenderFormat } from './wav';

/**
 * A small seeded generator of even random numbers (mulberry32), so that a render is the same each time.
 * @returns a function that gives numbers in [0, 1)
 */
export function seededRandom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/**
 * Turns samples into the bytes of a WAV file, piece by piece.
 * 16 bit gets triangular dither of 2 LSB peak to peak (S. Lipshitz, R. Wannamaker, J. Vanderkooy, JAES 1992); 24 bit is
 * rounded; 32-bit float is written as it is. Integers are clipped at full scale, and the clipped samples are counted.
 */
export class PcmEncoder {
  clippedSamples = 0;
  private readonly random = seededRandom(0x0e51d);

  constructor(
    private readonly channels: number,
    private readonly format: RenderFormat,
  ) {}

  /** @param samples one array per channel. @returns interleaved bytes of `frames` frames */
  encode(samples: readonly ArrayLike<number>[], frames: number): Uint8Array {
    if (this.format === '32f') return this.encodeFloats(samples, frames);
    const bytes = new Uint8Array(frames * frameBytes({ channels: this.channels, format: this.format }));
    const width = this.format === '16' ? 2 : 3;
    // Frame by frame, so that the dither does not depend on how the sound is cut into blocks.
    for (let n = 0, at = 0; n < frames; n++) {
      for (let c = 0; c < this.channels; c++, at += width) {
        const value = this.integer(samples[c][n]);
        bytes[at] = value;
        bytes[at + 1] = value >> 8;
        if (width === 3) bytes[at + 2] = value >> 16;
      }
    }
    return bytes;
  }

  private encodeFloats(samples: readonly ArrayLike<number>[], frames: number): Uint8Array {
    const values = new Float32Array(frames * this.channels);
    for (let c = 0; c < this.channels; c++) {
      const channel = samples[c];
      for (let n = 0, at = c; n < frames; n++, at += this.channels) values[at] = channel[n];
    }
    return new Uint8Array(values.buffer);
  }

  private integer(sample: number): number {
    const fullScale = this.format === '16' ? 0x8000 : 0x800000;
    const dither = this.format === '16' ? this.random() - this.random() : 0;
    const rounded = Math.round(sample * fullScale + dither);
    const value = Math.min(fullScale - 1, Math.max(-fullScale, rounded));
    if (value !== rounded) this.clippedSamples++;
    return value;
  }
}
