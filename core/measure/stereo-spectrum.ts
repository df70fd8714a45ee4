import FFT from 'fft.js';
import { THIRD_OCTAVES } from './bands';
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
  private readonly fft: FFT;
  private readonly size: number;
  private readonly window: Float64Array;
  /** Left and right as real and imaginary part, so that one transform does for both. */
  private readonly held: Float64Array;
  private readonly input: number[];
  private readonly output: number[];
  private filled = 0;
  private readonly left: Float64Array;
  private readonly right: Float64Array;
  private readonly both: Float64Array;

  constructor(private readonly rateHz: number) {
    this.size = 2 ** Math.ceil(Math.log2(SIZE_SECONDS * rateHz));
    const { size } = this;
    this.fft = new FFT(size);
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
    this.held = new Float64Array(2 * size);
    this.input = new Array<number>(2 * size).fill(0);
    this.output = this.fft.createComplexArray();
    [this.left, this.right, this.both] = [0, 1, 2].map(() => new Float64Array(size / 2 + 1));
  }

  /** @param samples left and right */
  push([left, right]: readonly ArrayLike<number>[]): void {
    const { size, held } = this;
    for (let n = 0; n < left.length; n++) {
      held[2 * this.filled] = left[n];
      held[2 * this.filled + 1] = right[n];
      if (++this.filled < size) continue;
      this.measure();
      held.copyWithin(0, size);
      this.filled = size / 2;
    }
  }

  private measure(): void {
    const { size, held, window, input, output } = this;
    for (let n = 0; n < size; n++) {
      input[2 * n] = window[n] * held[2 * n];
      input[2 * n + 1] = window[n] * held[2 * n + 1];
    }
    this.fft.transform(output, input);
    for (let k = 1; k < size / 2; k++) {
      const [re, im, reBack, imBack] = [
        output[2 * k],
        output[2 * k + 1],
        output[2 * (size - k)],
        output[2 * (size - k) + 1],
      ];
      // Left is the even part of the spectrum, right the odd one.
      const [lr, li, rr, ri] = [re + reBack, im - imBack, im + imBack, reBack - re];
      this.left[k] += lr * lr + li * li;
      this.right[k] += rr * rr + ri * ri;
      this.both[k] += lr * rr + li * ri;
    }
  }

  /** The figures of all that was pushed; a sound shorter than a window is taken as it is. */
  finish(): StereoBand[] {
    if (this.filled > 0 && !this.left.some((power) => power > 0)) {
      this.held.fill(0, 2 * this.filled);
      this.measure();
    }
    const binHz = this.rateHz / this.size;
    return THIRD_OCTAVES.filter(({ highHz }) => highHz < this.rateHz / 2).map(({ exactHz, lowHz, highHz }) => {
      let [left, right, both] = [0, 0, 0];
      const first = Math.max(1, Math.round(lowHz / binHz));
      for (let k = first; k <= Math.max(first, Math.round(highHz / binHz) - 1); k++) {
        left += this.left[k];
        right += this.right[k];
        both += this.both[k];
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
