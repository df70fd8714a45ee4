import FFT from 'fft.js';
import type { FrequencyBand } from './bands';

/** The long-term spectrum of a part of the mix before and after its chain, at its fader: 120 levels each, dB. */
export interface MixedSpectrum {
  beforeDb: ArrayLike<number>;
  afterDb: ArrayLike<number>;
}

/** The level that stands for "nothing there", dB. */
export const FLOOR_DB = -150;

/**
 * A long-term power spectrum by Welch's method: Hann windows that overlap by half, averaged. Samples are pushed in pieces of
 * any length; the channels of a stereo recording are averaged as powers.
 * Source: P. Welch, IEEE Trans. Audio Electroacoust., 1967.
 *
 * Levels are in dB relative to a sine at full scale (0 dBFS = a sine of amplitude 1).
 */
export class LongTermSpectrum {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly buffers: Float64Array[];
  private filled = 0;
  private segments = 0;
  private readonly power: Float64Array;
  private readonly input: number[];
  private readonly output: number[];

  /**
   * @param rateHz sample rate
   * @param channels 1 or 2
   * @param size length of the transform, a power of two; the default resolves 20 Hz in 1/12 octaves
   */
  constructor(
    private readonly rateHz: number,
    private readonly channels: number,
    private readonly size = rateHz > 50000 ? 131072 : 65536,
  ) {
    this.fft = new FFT(size);
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
    this.buffers = Array.from({ length: channels }, () => new Float64Array(size));
    this.power = new Float64Array(size / 2 + 1);
    this.input = new Array<number>(size).fill(0);
    this.output = this.fft.createComplexArray();
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const count = samples[0].length;
    for (let at = 0; at < count;) {
      const run = Math.min(count - at, this.size - this.filled);
      for (let c = 0; c < this.channels; c++) {
        for (let n = 0; n < run; n++) this.buffers[c][this.filled + n] = samples[c][at + n];
      }
      this.filled += run;
      at += run;
      if (this.filled === this.size) {
        this.addSegment();
        for (const buffer of this.buffers) buffer.copyWithin(0, this.size / 2);
        this.filled = this.size / 2;
      }
    }
  }

  private addSegment(): void {
    for (const buffer of this.buffers) {
      for (let n = 0; n < this.size; n++) this.input[n] = buffer[n] * this.window[n];
      this.fft.realTransform(this.output, this.input);
      for (let k = 0; k <= this.size / 2; k++) {
        this.power[k] += this.output[2 * k] ** 2 + this.output[2 * k + 1] ** 2;
      }
    }
    this.segments++;
  }

  /**
   * Power in bands. A recording shorter than one window is padded with silence and corrected for it.
   * @returns one value per band, dB relative to a full-scale sine, at least {@link FLOOR_DB}
   */
  levelsDb(bands: readonly FrequencyBand[]): number[] {
    let correction = 1;
    if (this.segments === 0) {
      if (this.filled === 0) return bands.map(() => FLOOR_DB);
      for (const buffer of this.buffers) buffer.fill(0, this.filled);
      let energy = 0;
      for (let n = 0; n < this.filled; n++) energy += this.window[n] ** 2;
      correction = (this.size * 0.375) / Math.max(energy, 1e-9);
      this.addSegment();
    }
    // A sine of amplitude 1 has |X|² = (size/4)² at its bin, spread over 1.5 bins' worth of power by the window.
    const scale = correction / (this.segments * this.channels * (this.size / 4) ** 2 * 1.5);
    const binHz = this.rateHz / this.size;
    return bands.map((band) =>
      Math.max(FLOOR_DB, 10 * Math.log10(powerInBand(this.power, band, binHz) * scale + 1e-30)),
    );
  }
}

/**
 * Power of a band from the powers of bins: a bin that the band covers in part counts in part.
 * @param power one value per bin from 0 Hz to half the rate
 * @param binHz distance of the bins
 */
export function powerInBand(power: ArrayLike<number>, { lowHz, highHz }: FrequencyBand, binHz: number): number {
  const last = Math.min(power.length - 1, Math.ceil(highHz / binHz + 0.5));
  let sum = 0;
  for (let k = Math.max(0, Math.floor(lowHz / binHz - 0.5)); k <= last; k++) {
    const share = Math.min(highHz, (k + 0.5) * binHz) - Math.max(lowHz, (k - 0.5) * binHz);
    if (share > 0) sum += (power[k] * share) / binHz;
  }
  return sum;
}
