import { interleavePair, threadSpectrum, type PairSpectrum } from '../../measure';

/** Powers of the bins of windows (Blackman–Harris); a full-scale sine = 1, channels averaged. Two windows go through one transform. */
export class PowerFrames {
  private readonly spectrum: PairSpectrum;
  private readonly scale: number;
  private readonly powers: Float64Array;

  /** @param size of a window, a power of two; @param hop from one to the next */
  constructor(
    private readonly size: number,
    private readonly hop: number,
  ) {
    this.spectrum = threadSpectrum(size, 'blackmanHarris');
    // The mean of the window is the first of its terms; rows of the transform are fourfold already.
    this.scale = 1 / (0.35875 * size) ** 2;
    this.powers = new Float64Array(size / 2 + 1);
  }

  /**
   * Goes through a stretch, without the part of a window at its end.
   * @param samples one array per channel, one or two of equal length
   * @param onPowers receives the powers of each window in turn; the array is used again, and it transforms nothing itself
   */
  run(samples: readonly ArrayLike<number>[], onPowers: (powers: Float64Array) => void): void {
    const { size, hop } = this;
    const { input } = this.spectrum;
    const [left, right] = samples;
    const count = left.length < size ? 0 : Math.floor((left.length - size) / hop) + 1;
    for (let frame = 0; frame < count; frame += right ? 1 : 2) {
      const at = frame * hop;
      const hasNext = !right && frame + 1 < count;
      interleavePair(input, left, at, right ?? left, hasNext ? at + hop : at);
      const [first, second] = this.spectrum.cross();
      onPowers(this.scaled(first, right ? second : first));
      if (hasNext) onPowers(this.scaled(second, second));
    }
  }

  /** The mean of two rows of a transform, as powers. */
  private scaled(first: Float64Array, second: Float64Array): Float64Array {
    const { powers, scale } = this;
    for (let k = 0; k < powers.length; k++) powers[k] = (scale * (first[k] + second[k])) / 2;
    return powers;
  }
}
