import FFT from 'fft.js';
import { SPECTRUM_LOW_HZ } from './bands';
import { powerInBand } from './spectrum';

/**
 * A recording over time: its level in 60 bands of a sixth of an octave from 20 Hz, twenty times a second, a byte each. It is what loudness
 * over a loop is worked out from after any equalizer, without touching the sound.
 */
export const SHORT_BANDS = 60;
export const SHORT_PER_SECOND = 20;

/** A byte is half a decibel; 1 is −114.5 dB, 255 is +12.5 dB relative to a full-scale sine, and 0 is silence. */
const BYTE_ZERO_DB = -115;
const toByte = (db: number) =>
  db <= BYTE_ZERO_DB ? 0 : Math.min(255, Math.max(1, Math.round(2 * (db - BYTE_ZERO_DB))));

/** Power of each byte, full-scale sine = 1. */
export const SHORT_POWERS = Float64Array.from({ length: 256 }, (_, byte) =>
  byte === 0 ? 0 : 10 ** ((byte / 2 + BYTE_ZERO_DB) / 10),
);

const EDGES = Array.from({ length: SHORT_BANDS }, (_, i) => ({
  lowHz: SPECTRUM_LOW_HZ * 2 ** (i / 6),
  highHz: SPECTRUM_LOW_HZ * 2 ** ((i + 1) / 6),
}));

/**
 * Measures a recording that is pushed in pieces. Every step of 50 ms is a Hann window of 8192 samples (16384 above 50 kHz) about its
 * middle; the channels of a stereo recording are averaged as powers. Beyond its ends a recording is silent.
 */
export class ShortSpectraAnalyser {
  private readonly size: number;
  private readonly hop: number;
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly rings: Float64Array[];
  private readonly input: number[];
  private readonly output: number[];
  private readonly bins: Float64Array;
  private readonly rows: Uint8Array[] = [];
  private pushed = 0;

  /** @param rateHz sample rate; @param channels 1 or 2 */
  constructor(
    private readonly rateHz: number,
    private readonly channels: number,
  ) {
    this.size = rateHz > 50000 ? 16384 : 8192;
    this.hop = Math.round(rateHz / SHORT_PER_SECOND);
    this.fft = new FFT(this.size);
    this.window = Float64Array.from(
      { length: this.size },
      (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / this.size),
    );
    this.rings = Array.from({ length: channels }, () => new Float64Array(this.size));
    this.input = new Array<number>(this.size).fill(0);
    this.output = this.fft.createComplexArray();
    this.bins = new Float64Array(this.size / 2 + 1);
  }

  /** The sample after the window of the next step. */
  private get nextEnd(): number {
    return this.rows.length * this.hop + Math.round(this.hop / 2) + this.size / 2;
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const count = samples[0].length;
    const mask = this.size - 1;
    for (let at = 0; at < count;) {
      const run = Math.min(count - at, this.nextEnd - this.pushed);
      for (let c = 0; c < this.channels; c++)
        for (let n = 0; n < run; n++) this.rings[c][(this.pushed + n) & mask] = samples[c][at + n];
      at += run;
      this.pushed += run;
      if (this.pushed === this.nextEnd) this.measure();
    }
  }

  private measure(): void {
    const { size, bins, window, input, output } = this;
    const mask = size - 1;
    bins.fill(0);
    for (const ring of this.rings) {
      for (let n = 0; n < size; n++) input[n] = ring[(this.pushed + n) & mask] * window[n];
      this.fft.realTransform(output, input);
      for (let k = 0; k <= size / 2; k++) bins[k] += output[2 * k] ** 2 + output[2 * k + 1] ** 2;
    }
    const scale = 1 / (this.channels * (size / 4) ** 2 * 1.5);
    const binHz = this.rateHz / size;
    this.rows.push(
      Uint8Array.from(EDGES, (edges) => toByte(10 * Math.log10(powerInBand(bins, edges, binHz) * scale + 1e-30))),
    );
  }

  /** @returns one row of {@link SHORT_BANDS} bytes for every 50 ms that have begun */
  finish(): Uint8Array {
    const length = this.pushed;
    const rows = Math.ceil(length / this.hop);
    const silence = Array.from({ length: this.channels }, () => new Float64Array(this.hop));
    while (this.rows.length < rows) this.push(silence);
    const all = new Uint8Array(rows * SHORT_BANDS);
    this.rows.slice(0, rows).forEach((row, i) => all.set(row, i * SHORT_BANDS));
    return all;
  }
}
