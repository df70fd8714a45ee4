import { kaiser, sineCardinal } from '../../filters/kaiser';

/** What is beyond half the lower rate, and what would fold onto what passes, is so far down, dB. */
const DOWN_DB = 110;
const BETA = 0.1102 * (DOWN_DB - 8.7);

/**
 * Takes every so many-th sample of a sound behind a low-pass, which passes no more than is asked for and so is short.
 * Source: J. F. Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", Proc. IEEE ISCAS (1974).
 */
export class Decimator {
  /** From the middle one outwards; none where all samples are taken. */
  private readonly taps: Float64Array;

  /**
   * @param factor of how many samples one is taken; 1 leaves them as they are
   * @param passHz up to which it is flat, less than half the lower rate
   */
  constructor(
    private readonly factor: number,
    passHz: number,
    rateHz: number,
  ) {
    if (factor === 1) {
      this.taps = new Float64Array(0);
      return;
    }
    const transition = (rateHz / factor - 2 * passHz) / rateHz;
    const half = 2 * Math.ceil((DOWN_DB - 8) / (2.285 * 2 * Math.PI * transition) / 4);
    const taps = Float64Array.from(
      { length: half + 1 },
      (_, n) => (sineCardinal(n / factor) / factor) * kaiser(n / (half + 1), BETA),
    );
    const sum = taps.reduce((all, tap, n) => all + (n === 0 ? tap : 2 * tap), 0);
    this.taps = taps.map((tap) => tap / sum);
  }

  /** @returns a sample for every `factor` of them, the first in its place; beyond their ends there is silence */
  of(samples: ArrayLike<number>): ArrayLike<number> {
    const { factor, taps } = this;
    if (factor === 1) return samples;
    const reach = taps.length - 1;
    const padded = new Float64Array(samples.length + 2 * reach);
    padded.set(samples, reach);
    const taken = new Float64Array(Math.ceil(samples.length / factor));
    for (let i = 0, at = reach; i < taken.length; i++, at += factor) {
      let [near, far] = [taps[0] * padded[at], 0];
      for (let n = 1; n < reach; n += 2) {
        near += taps[n] * (padded[at - n] + padded[at + n]);
        far += taps[n + 1] * (padded[at - n - 1] + padded[at + n + 1]);
      }
      taken[i] = near + far;
    }
    return taken;
  }
}
