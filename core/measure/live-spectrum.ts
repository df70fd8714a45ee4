import FFT from 'fft.js';
import { SPECTRUM_BAND_EDGES, SPECTRUM_BANDS } from './bands';
import { FLOOR_DB, powerInBand } from './spectrum';

/** Length of the transform: 0.17 s at 48 kHz. */
const SIZE = 8192;
/** Share of the way to a new measurement that the powers go, at about 30 measurements a second: fast in a tenth of a second, slow in one. */
const FOLLOW = { fast: 0.45, slow: 0.04 } as const;
export type SpectrumSpeed = keyof typeof FOLLOW;

/** What a measurement is worked out in: the same for all spectra of a thread, since they are measured one after the other. */
class Workspace {
  readonly fft = new FFT(SIZE);
  readonly window = Float64Array.from({ length: SIZE }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / SIZE));
  readonly input = new Array<number>(SIZE).fill(0);
  readonly output = this.fft.createComplexArray();
  readonly bins = new Float64Array(SIZE / 2 + 1);
}
let workspace: Workspace | null = null;

/**
 * The spectrum of the last 8192 samples in the bands of the long-term spectrum, smoothed a little. A band narrower than the
 * resolution takes its share of the bin it lies in.
 */
export class LiveSpectrum {
  private readonly power = new Float64Array(SPECTRUM_BANDS);
  private readonly most = new Float32Array(SPECTRUM_BANDS).fill(FLOOR_DB);

  constructor(private readonly rateHz: number) {}

  /**
   * @param ring the latest samples, its length a power of two ≥ 8192
   * @param end samples written so far: the ring holds `end − length` to `end − 1`
   * @param speed how fast the levels follow
   * @returns 120 levels, dB relative to a full-scale sine
   */
  measure(ring: Float32Array, end: number, speed: SpectrumSpeed = 'fast'): Float32Array {
    workspace ??= new Workspace();
    const { fft, window, input, output, bins } = workspace;
    const mask = ring.length - 1;
    for (let n = 0; n < SIZE; n++) input[n] = ring[(end - SIZE + n) & mask] * window[n];
    fft.realTransform(output, input);
    const scale = 1 / ((SIZE / 4) ** 2 * 1.5);
    const binHz = this.rateHz / SIZE;
    for (let k = 0; k <= SIZE / 2; k++) bins[k] = output[2 * k] ** 2 + output[2 * k + 1] ** 2;
    return Float32Array.from(SPECTRUM_BAND_EDGES, (edges, band) => {
      this.power[band] += FOLLOW[speed] * (powerInBand(bins, edges, binHz) * scale - this.power[band]);
      const level = Math.max(FLOOR_DB, 10 * Math.log10(this.power[band] + 1e-30));
      this.most[band] = Math.max(this.most[band], level);
      return level;
    });
  }

  /** The highest levels since the last {@link forgetHighest}. */
  get highest(): Float32Array {
    return this.most.slice();
  }

  forgetHighest(): void {
    this.most.fill(FLOOR_DB);
  }
}
