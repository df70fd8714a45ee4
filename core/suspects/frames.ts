import FFT from 'fft.js';

/** Powers of the bins of windows that overlap, of a recording that is pushed in pieces; left and right are averaged as powers. */
export class FrameAnalyser {
  private readonly fft: FFT;
  private readonly window: Float64Array;
  private readonly line: Float64Array;
  private readonly input: Float64Array;
  private readonly output: number[];
  private readonly power: Float64Array;
  private filled = 0;

  /**
   * @param size of a window, a power of two
   * @param hop from one window to the next
   * @param take receives the powers of the bins, a full-scale sine = 1; the array is used again
   */
  constructor(
    private readonly size: number,
    private readonly hop: number,
    private readonly take: (power: Float64Array) => void,
  ) {
    this.fft = new FFT(size);
    this.window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
    this.line = new Float64Array(2 * size);
    this.input = new Float64Array(2 * size);
    this.output = this.fft.createComplexArray();
    this.power = new Float64Array(size / 2 + 1);
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const [left, right] = samples;
    for (let at = 0; at < left.length;) {
      const run = Math.min(left.length - at, this.size - this.filled);
      for (let n = 0; n < run; n++) {
        this.line[2 * (this.filled + n)] = left[at + n];
        this.line[2 * (this.filled + n) + 1] = right ? right[at + n] : 0;
      }
      this.filled += run;
      at += run;
      if (this.filled < this.size) return;
      this.measure(samples.length);
      this.line.copyWithin(0, 2 * this.hop);
      this.filled -= this.hop;
    }
  }

  private measure(channels: number): void {
    const { size, line, window, input, output, power } = this;
    for (let n = 0; n < size; n++) {
      input[2 * n] = line[2 * n] * window[n];
      input[2 * n + 1] = line[2 * n + 1] * window[n];
    }
    this.fft.transform(output, input);
    const scale = 0.5 / (channels * (size / 4) ** 2);
    for (let k = 0; k <= size / 2; k++) {
      const here = 2 * k;
      const mirror = 2 * ((size - k) % size);
      power[k] =
        scale *
        (output[here] * output[here] +
          output[here + 1] * output[here + 1] +
          output[mirror] * output[mirror] +
          output[mirror + 1] * output[mirror + 1]);
    }
    this.take(power);
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

  at(row: number, column: number): number {
    return this.values[row * this.width + column];
  }

  /** A column of some rows, sorted. */
  sorted(column: number, rows: readonly number[]): Float32Array {
    return Float32Array.from(rows, (row) => this.at(row, column)).sort();
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
