import FFT from 'fft.js';
import { OnsetStrength } from './onsets';

/** What of a sound tells its beats and bars. */
export interface Rhythm {
  /** How strongly something begins, one value every `ONSET_STEP_SECONDS`; and the same of what lies below 150 Hz. */
  strengths: ArrayLike<number>;
  lows: ArrayLike<number>;
  /** How much of each of the twelve semitones sounds, one every {@link HARMONY_STEP_SECONDS}; their squares add up to 1. */
  harmony: readonly Float64Array[];
}

export const HARMONY_STEP_SECONDS = 0.05;
const FRAME_SECONDS = 0.17;
/** Chords are looked for between these; Hz. */
const RANGE_HZ = { from: 40, to: 1760 };
const SEMITONES = 12;

/** Semitones over time: spectra folded to one octave. Source: T. Fujishima, "Realtime Chord Recognition of Musical Sound", ICMC 1999. */
class Harmony {
  private readonly size: number;
  private readonly fft: FFT;
  private readonly ring: Float64Array;
  private readonly window: Float64Array;
  private readonly frame: Float64Array;
  private readonly spectrum: number[];
  /** The semitone of each bin; −1 outside the range. */
  private readonly semitones: Int8Array;
  private written = 0;
  readonly frames: Float64Array[] = [];

  constructor(private readonly rateHz: number) {
    const size = 2 ** Math.round(Math.log2(FRAME_SECONDS * rateHz));
    this.size = size;
    this.fft = new FFT(size);
    this.ring = new Float64Array(size);
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
    this.frame = new Float64Array(size);
    this.spectrum = this.fft.createComplexArray();
    this.semitones = Int8Array.from({ length: size / 2 }, (_, k) => {
      const hz = (k * rateHz) / size;
      if (hz < RANGE_HZ.from || hz > RANGE_HZ.to) return -1;
      return ((Math.round(SEMITONES * Math.log2(hz / 440)) % SEMITONES) + SEMITONES) % SEMITONES;
    });
  }

  push(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    for (let n = 0; n < frames; n++) {
      this.ring[this.written % this.size] = 0.5 * (left[n] + right[n]);
      this.written++;
      // Each frame is told of in its middle.
      const due = Math.round(this.frames.length * HARMONY_STEP_SECONDS * this.rateHz) + this.size / 2;
      if (this.written >= due) this.addFrame();
    }
  }

  private addFrame(): void {
    const { size, ring, frame, window, spectrum, semitones } = this;
    for (let n = 0; n < size; n++) frame[n] = window[n] * ring[(this.written + n) % size];
    this.fft.realTransform(spectrum, frame);
    const shares = new Float64Array(SEMITONES);
    for (let k = 0; k < semitones.length; k++)
      if (semitones[k] >= 0) shares[semitones[k]] += Math.hypot(spectrum[2 * k], spectrum[2 * k + 1]);
    let sum = 0;
    for (let i = 0; i < SEMITONES; i++) sum += shares[i];
    // Magnitudes by their roots, so that one loud note is not all there is.
    this.frames.push(shares.map((share) => Math.sqrt(share / Math.max(1e-12, sum))));
  }
}

/** Takes samples as they come, and tells what their beats and bars are found by. */
export class RhythmListener {
  private readonly onsets: OnsetStrength;
  private readonly harmony: Harmony;

  /** @param rateHz of the samples */
  constructor(rateHz: number) {
    this.onsets = new OnsetStrength(rateHz);
    this.harmony = new Harmony(rateHz);
  }

  /** @param left samples, any number; right the other side, or the same */
  push(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    this.onsets.push(left, right, frames);
    this.harmony.push(left, right, frames);
  }

  get rhythm(): Rhythm {
    return { strengths: this.onsets.strengths, lows: this.onsets.lows, harmony: this.harmony.frames };
  }
}
