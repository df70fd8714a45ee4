import { TRUE_PEAK_PHASES, TRUE_PEAK_TAPS } from '../measure/true-peak';
import { dot } from './dot';

const HALF = TRUE_PEAK_TAPS / 2;
/** Taps of the values between two samples, latest sample first. */
export const PEAK_PHASES = TRUE_PEAK_PHASES.map((taps) => taps.slice().reverse());
/** No value between samples is larger than the largest of those that take part in it, times this. */
export const MOST_GAIN = Math.max(...PEAK_PHASES.map((taps) => taps.reduce((sum, tap) => sum + Math.abs(tap), 0)));

/** Looks for the greatest values of one or two sides at, and between, their samples; half the taps late. */
export interface PeakLoop {
  /**
   * Raises what is known of peaks.
   * @param right null for mono
   * @param worth below this nothing needs to be known: values between samples are left out where they cannot reach it
   * @param frames 1 to `MAX_BLOCK`
   */
  run(left: Float64Array, right: Float64Array | null, worth: Float64Array, peaks: Float64Array, frames: number): void;
  /** Forgets the past of the signal. */
  reset(): void;
  readonly isSound: boolean;
  /** Gives its memory back: it must not be used again. */
  release(): void;
}

/** The last samples of a side, kept twice, so that a filter reads on without a wrap; latest first. */
const past = () => new Float64Array(2 * TRUE_PEAK_TAPS);

/** The loop in plain TypeScript: what the compiled one is held against, and what runs where that can't. */
export class PlainPeakLoop implements PeakLoop {
  private readonly sides = [past(), past()];
  private at = 0;
  /** Frames for which something loud enough is still among those that are looked at. */
  private loud = 0;

  run(left: Float64Array, right: Float64Array | null, worth: Float64Array, peaks: Float64Array, frames: number): void {
    for (let n = 0; n < frames; n++) {
      const first = left[n];
      const second = right ? right[n] : first;
      this.loud = Math.max(Math.abs(first), Math.abs(second)) * MOST_GAIN > worth[n] ? TRUE_PEAK_TAPS : this.loud - 1;
      this.at = this.at === 0 ? TRUE_PEAK_TAPS - 1 : this.at - 1;
      this.keep(this.sides[0], first);
      this.keep(this.sides[1], second);
      peaks[n] = Math.max(peaks[n], this.peakOf(this.sides[0]), right ? this.peakOf(this.sides[1]) : 0);
    }
  }

  private keep(side: Float64Array, sample: number): void {
    side[this.at] = side[this.at + TRUE_PEAK_TAPS] = sample;
  }

  private peakOf(side: Float64Array): number {
    const { at } = this;
    let peak = Math.max(Math.abs(side[at + HALF]), Math.abs(side[at + HALF - 1]));
    if (this.loud > 0)
      for (let i = 0; i < PEAK_PHASES.length; i++) peak = Math.max(peak, Math.abs(dot(PEAK_PHASES[i], side, at)));
    return peak;
  }

  reset(): void {
    this.loud = 0;
    for (const side of this.sides) side.fill(0);
  }

  get isSound(): boolean {
    return this.sides.every((side) => side.every(Number.isFinite));
  }

  release(): void {
    // Its memory is the language's own, which is cleared up by itself.
  }
}
