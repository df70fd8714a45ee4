import { fillFrom, threadSpectrum, type PairSpectrum } from '../measure';

const NOTHING = new Float64Array(0);

/**
 * Powers of the bins of windows, of a recording that is pushed in pieces; left and right are averaged as powers. Two windows of a recording of one channel
 * go through one transform.
 */
export class FrameAnalyser {
  private readonly spectrum: PairSpectrum;
  private readonly lines: [Float64Array, Float64Array];
  /** The first window of a pair, while the second is waited for. */
  private readonly first: Float64Array;
  private hasFirst = false;
  private filled = 0;
  private skipped = 0;
  /** What makes the power of a full-scale sine 1. */
  private readonly scale: number;

  /**
   * @param size of a window, a power of two up to 131072
   * @param hop from one window to the next; longer than a window, what lies between is not looked at
   * @param onFrame receives the powers of the bins, a full-scale sine = 1, valid until it has returned; it transforms nothing itself
   * @param bins how many of them, from 0 Hz on
   */
  constructor(
    private readonly size: number,
    private readonly hop: number,
    private readonly onFrame: (power: Float64Array) => void,
    private readonly bins = size / 2 + 1,
  ) {
    this.spectrum = threadSpectrum(size, 'hann');
    this.scale = 1 / (size / 4) ** 2;
    this.lines = [new Float64Array(size), new Float64Array(size)];
    this.first = new Float64Array(size);
  }

  /** @param samples one array per channel, equal lengths; as many channels each time */
  push(samples: readonly ArrayLike<number>[]): void {
    const { lines, size, hop } = this;
    for (let at = 0; at < samples[0].length;) {
      const passed = Math.min(samples[0].length - at, this.skipped);
      this.skipped -= passed;
      at += passed;
      const run = Math.min(samples[0].length - at, size - this.filled);
      samples.forEach((side, channel) => fillFrom(lines[channel].subarray(this.filled), side, at, run));
      this.filled += run;
      at += run;
      if (this.filled < size) return;
      if (samples.length === 1) this.measureOne();
      else this.measureBoth();
      for (const line of lines) line.copyWithin(0, hop);
      this.filled = Math.max(0, size - hop);
      this.skipped = Math.max(0, hop - size);
    }
  }

  /** Measures the last window where it has no second one. */
  finish(): void {
    if (!this.hasFirst) return;
    this.hasFirst = false;
    const { spectrum, first, bins, scale } = this;
    spectrum.load(first, 0, NOTHING, 0);
    this.onFrame(spectrum.powers(bins, scale)[0]);
  }

  private measureBoth(): void {
    const { lines, spectrum, bins, scale } = this;
    spectrum.load(lines[0], 0, lines[1], 0);
    this.onFrame(spectrum.run(0, bins, scale / 2).subarray(0, bins));
  }

  private measureOne(): void {
    const { lines, spectrum, first, bins, scale } = this;
    this.hasFirst = !this.hasFirst;
    if (this.hasFirst) {
      first.set(lines[0]);
      return;
    }
    spectrum.load(first, 0, lines[0], 0);
    for (const row of spectrum.powers(bins, scale)) this.onFrame(row);
  }
}

/** Levels over time in many bands: one row a frame. */
export class LevelRows {
  private values = new Float32Array(0);
  count = 0;

  constructor(readonly width: number) {}

  add(row: ArrayLike<number>): void {
    const at = this.count * this.width;
    if (at + this.width > this.values.length) {
      const longer = new Float32Array(Math.max(2 * this.values.length, 64 * this.width));
      longer.set(this.values);
      this.values = longer;
    }
    this.values.set(row, at);
    this.count++;
  }

  /** The levels of a row, not to be changed. */
  row(row: number): Float32Array {
    return this.values.subarray(row * this.width, (row + 1) * this.width);
  }

  at(row: number, column: number): number {
    return this.values[row * this.width + column];
  }

  /** A column of some rows, sorted. */
  sorted(column: number, rows: readonly number[]): Float32Array {
    const { values, width } = this;
    const found = new Float32Array(rows.length);
    for (let i = 0; i < rows.length; i++) found[i] = values[rows[i] * width + column];
    return found.sort();
  }
}

/** Where the top of the parabola through three levels lies, from the middle one: −0.5 to 0.5; 0 where they have no top. */
export function topShift(below: number, here: number, above: number): number {
  const bend = below - 2 * here + above;
  return bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (below - above)) / bend)) : 0;
}

/** The value below which a share of sorted values lies. */
export const percentile = (sorted: ArrayLike<number>, share: number): number =>
  sorted[Math.round(share * (sorted.length - 1))] ?? 0;

export const toLevelDb = (power: number) => 10 * Math.log10(power + 1e-15);
