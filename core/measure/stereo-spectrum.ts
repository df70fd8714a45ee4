import { threadSpectrum } from './band-levels';
import { THIRD_OCTAVES } from './bands';
import type { PairSpectrum } from './kernel/kernel';
import { correlationOf } from './stereo-image';

/** How left and right stand to each other in a third-octave. */
export interface StereoBand {
  /** Exact middle, Hz. */
  hz: number;
  /** +1 the same on both sides, 0 unrelated, −1 turned; null where a side is silent. */
  correlation: number | null;
  /** Share of the sides, (L − R)/2, in the power of middle and sides, 0 to 1; null for silence. */
  sideShare: number | null;
}

const SIZE_SECONDS = 0.15;
/** What one side leaks into the other by rounding. */
const ROUNDING = 1e-20;

/**
 * Correlation and side share of a stereo sound by third-octaves: the real part of the averaged cross-spectrum over the powers, in Hann windows
 * that overlap by half (P. D. Welch, IEEE Trans. Audio Electroacoust. 15, 1967; bands by IEC 61260-1:2014).
 */
export class StereoSpectrum {
  private readonly spectrum: PairSpectrum;
  private readonly size: number;
  /** Left and right in turn, so that one transform does for both. */
  private readonly held: Float64Array;
  private filled = 0;
  /** Powers of left, of right, and what they have in common. */
  private readonly sums: readonly Float64Array[];

  constructor(private readonly rateHz: number) {
    this.size = 2 ** Math.ceil(Math.log2(SIZE_SECONDS * rateHz));
    const { size } = this;
    this.spectrum = threadSpectrum(size, 'hann');
    this.held = new Float64Array(2 * size);
    this.sums = [0, 1, 2].map(() => new Float64Array(size / 2 + 1));
  }

  /** @param samples left and right */
  push([left, right]: readonly ArrayLike<number>[]): void {
    const { size, held } = this;
    let { filled } = this;
    for (let n = 0; n < left.length; n++) {
      held[2 * filled] = left[n];
      held[2 * filled + 1] = right[n];
      if (++filled < size) continue;
      this.measure();
      held.copyWithin(0, size);
      filled = size / 2;
    }
    this.filled = filled;
  }

  private measure(): void {
    this.spectrum.loadPairs(this.held);
    const rows = this.spectrum.cross();
    this.sums.forEach((sum, i) => {
      const bins = rows[i];
      for (let k = 0; k < sum.length; k++) sum[k] += bins[k];
    });
  }

  /** The figures of all that was pushed; a sound shorter than a window is taken as it is. */
  finish(): StereoBand[] {
    if (this.filled > 0 && !this.sums[0].some((power) => power > 0)) {
      this.held.fill(0, 2 * this.filled);
      this.measure();
    }
    const binHz = this.rateHz / this.size;
    return THIRD_OCTAVES.filter(({ highHz }) => highHz < this.rateHz / 2).map(({ exactHz, lowHz, highHz }) => {
      let [left, right, both] = [0, 0, 0];
      const first = Math.max(1, Math.round(lowHz / binHz));
      for (let k = first; k <= Math.max(first, Math.round(highHz / binHz) - 1); k++) {
        left += this.sums[0][k];
        right += this.sums[1][k];
        both += this.sums[2][k];
      }
      const whole = left + right;
      return {
        hz: exactHz,
        correlation: Math.min(left, right) < ROUNDING * whole ? null : correlationOf(left, right, both),
        sideShare: whole < 1e-12 ? null : Math.min(1, Math.max(0, 0.5 - both / whole)),
      };
    });
  }
}
