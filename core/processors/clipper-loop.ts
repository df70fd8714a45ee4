import { clipped, clippedArea, type ClipperCurve } from './clipper-curve';
import { FACTOR, Oversampling } from './oversampling';

/** What a clipper does to each frame of a block: factors, linear. */
export interface ClipperBlock {
  drives: Float64Array;
  ceilings: Float64Array;
  /** 0 bends at the ceiling, 1 from silence on. */
  bends: Float64Array;
}

/** Drives one or two sides into the curve at eight times the rate, in place; late by `Oversampling.latencyFrames`. */
export interface ClipperLoop {
  /** @param right null for mono @param frames 1 to `MAX_BLOCK` */
  process(left: Float64Array, right: Float64Array | null, block: ClipperBlock, frames: number): void;
  /** Forgets the past of the signal. */
  reset(): void;
  /** Gives its memory back: it must not be used again. */
  release(): void;
}

/** One side: eight times as many samples, the curve between each two of them, and back. */
class Side {
  private readonly oversampling = new Oversampling();
  private last = 0;
  private lastArea = 0;
  private readonly curve: ClipperCurve = { bendsAt: 0, ceiling: 0 };

  process(samples: Float64Array, { drives, ceilings, bends }: ClipperBlock, frames: number): void {
    const { oversampling, curve } = this;
    let { last, lastArea } = this;
    for (let n = 0; n < frames; n++) {
      const dense = oversampling.up(samples[n] * drives[n]);
      const bendsAt = ceilings[n] * (1 - bends[n]);
      if (curve.ceiling !== ceilings[n] || curve.bendsAt !== bendsAt) {
        curve.ceiling = ceilings[n];
        curve.bendsAt = bendsAt;
        lastArea = clippedArea(last, curve);
      }
      for (let i = 0; i < FACTOR; i++) {
        const value = dense[i];
        const step = value - last;
        const area = clippedArea(value, curve);
        // Means of the curve between two samples: S. Bilbao et al., "Antiderivative Antialiasing for Memoryless Nonlinearities", IEEE Signal Processing Letters 24 (2017).
        dense[i] = step > 1e-6 || step < -1e-6 ? (area - lastArea) / step : clipped((value + last) / 2, curve);
        last = value;
        lastArea = area;
      }
      samples[n] = oversampling.down();
    }
    this.last = last;
    this.lastArea = lastArea;
  }

  reset(): void {
    this.oversampling.reset();
    this.last = this.lastArea = 0;
  }
}

/** The loop in plain TypeScript: what the compiled one is held against, and what runs where that can't. */
export class PlainClipperLoop implements ClipperLoop {
  private readonly sides = [new Side(), new Side()];

  process(left: Float64Array, right: Float64Array | null, block: ClipperBlock, frames: number): void {
    this.sides[0].process(left, block, frames);
    if (right) this.sides[1].process(right, block, frames);
  }

  reset(): void {
    for (const side of this.sides) side.reset();
  }

  release(): void {
    // Its memory is the language's own, which is cleared up by itself.
  }
}
