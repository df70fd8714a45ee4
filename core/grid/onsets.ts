import FFT from 'fft.js';

/**
 * How strongly something begins at every moment of a sound: the sum over bands of what their levels rise by. Source: S. Dixon, "Onset
 * detection revisited", DAFx-06 (spectral flux); the logarithm, so that quiet instruments count, is common practice.
 */
const FRAME_SECONDS = 0.023;
/** Frames are this far apart. */
export const ONSET_STEP_SECONDS = 0.005;
/** Edges of the bands, Hz: about a third of an octave above 200 Hz. */
const EDGES_HZ = [
  30, 60, 100, 150, 200, 270, 350, 450, 570, 720, 900, 1150, 1450, 1850, 2350, 3000, 3800, 4800, 6100, 7700, 9700,
];
/** So many of them lie below 150 Hz, where the foot of a bar mostly is. */
const LOW_BANDS = 3;
/** Levels are counted from here, dBFS of a band. */
const FLOOR = 1e-6;

/** Takes samples as they come, and tells the strength of onsets every {@link ONSET_STEP_SECONDS}. */
export class OnsetStrength {
  private readonly size: number;
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly ring: Float64Array;
  private readonly frame: Float64Array;
  private readonly spectrum: number[];
  private readonly edges: number[];
  private before: Float64Array | null = null;
  private written = 0;
  /** One value a step; what is felt at its time began up to a frame earlier. */
  readonly strengths: number[] = [];
  /** The same of the lowest bands alone. */
  readonly lows: number[] = [];

  constructor(private readonly rateHz: number) {
    this.size = 2 ** Math.round(Math.log2(FRAME_SECONDS * rateHz));
    this.fft = new FFT(this.size);
    this.window = Float64Array.from(
      { length: this.size },
      (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / this.size),
    );
    this.ring = new Float64Array(this.size);
    this.frame = new Float64Array(this.size);
    this.spectrum = this.fft.createComplexArray();
    this.edges = EDGES_HZ.map((hz) => Math.min(this.size / 2, Math.max(1, Math.round((hz * this.size) / rateHz))));
  }

  /** @param left samples, any number; right the other side, or the same */
  push(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    for (let n = 0; n < frames; n++) {
      this.ring[this.written % this.size] = 0.5 * (left[n] + right[n]);
      this.written++;
      if (this.written >= Math.round((this.strengths.length + 1) * ONSET_STEP_SECONDS * this.rateHz)) this.addFrame();
    }
  }

  private addFrame(): void {
    const { size, ring, frame, window, spectrum, edges } = this;
    for (let n = 0; n < size; n++) frame[n] = window[n] * ring[(this.written + n) % size];
    this.fft.realTransform(spectrum, frame);
    const levels = new Float64Array(edges.length - 1);
    for (let band = 0; band < levels.length; band++) {
      let power = 0;
      for (let k = edges[band]; k < Math.max(edges[band] + 1, edges[band + 1]); k++)
        power += spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2;
      levels[band] = Math.log(FLOOR + power / size ** 2);
    }
    let [rise, low] = [0, 0];
    if (this.before)
      for (let band = 0; band < levels.length; band++) {
        rise += Math.max(0, levels[band] - this.before[band]);
        if (band === LOW_BANDS - 1) low = rise;
      }
    this.before = levels;
    this.strengths.push(rise);
    this.lows.push(low);
  }
}
