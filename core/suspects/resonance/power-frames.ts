import { threadSpectrum, type PairSpectrum } from '../../measure';

/** Powers of the bins of windows (Blackman–Harris); a full-scale sine = 1, channels averaged. Two windows go through one transform. */
export class PowerFrames {
  private readonly spectrum: PairSpectrum;
  private readonly scale: number;

  /**
   * @param size of a window, a power of two
   * @param hop from one to the next
   * @param bins how many are told, from 0 Hz on
   */
  constructor(
    private readonly size: number,
    private readonly hop: number,
    private readonly bins = size / 2 + 1,
  ) {
    this.spectrum = threadSpectrum(size, 'blackmanHarris');
    // The mean of the window is the first of its terms.
    this.scale = 4 / (0.35875 * size) ** 2;
  }

  /**
   * Goes through a stretch, without the part of a window at its end.
   * @param samples one array per channel, one or two of equal length
   * @param onPowers receives the powers of each window in turn, valid until it has returned; it transforms nothing itself
   */
  run(samples: readonly ArrayLike<number>[], onPowers: (powers: Float64Array) => void): void {
    const { size, hop, bins, scale, spectrum } = this;
    const [left, right] = samples;
    const count = left.length < size ? 0 : Math.floor((left.length - size) / hop) + 1;
    for (let frame = 0; frame < count; frame += right ? 1 : 2) {
      const at = frame * hop;
      if (right) {
        spectrum.load(left, at, right, at);
        onPowers(spectrum.run(0, bins, scale / 2).subarray(0, bins));
        continue;
      }
      spectrum.load(left, at, left, at + hop);
      const [first, second] = spectrum.powers(bins, scale);
      onPowers(first);
      if (frame + 1 < count) onPowers(second);
    }
  }
}
