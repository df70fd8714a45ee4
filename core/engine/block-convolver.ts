import FFT from 'fft.js';
import type { Partitions } from './convolution-kernel';

/** Blocks of a signal in, blocks of its convolution with some partitions out (overlap-save), in steps that can be spread over time. */
export class BlockConvolver {
  private readonly fft: FFT;
  private readonly points: number;
  /** Spectra of the last blocks of input, a ring. */
  private readonly history: Float64Array;
  private newest = 0;
  /** The last block and the one that is gathered, complex. */
  private readonly input: number[];
  private readonly spectrum: number[];
  private readonly result: number[];

  /** @param count how many blocks are kept */
  constructor(
    private readonly frames: number,
    private readonly count: number,
  ) {
    this.points = 2 * frames;
    this.fft = new FFT(this.points);
    [this.input, this.spectrum, this.result] = [this.spectra(), this.spectra(), this.spectra()];
    this.history = new Float64Array(count * 2 * this.points);
  }

  /** Room for a spectrum, or for a sum of some. */
  spectra(): number[] {
    return new Array<number>(2 * this.points).fill(0);
  }

  /** Puts a frame of the block that is gathered. */
  put(frame: number, left: number, right: number): void {
    this.input[2 * (this.frames + frame)] = left;
    this.input[2 * (this.frames + frame) + 1] = right;
  }

  /** The block is full: takes its spectrum, and begins the next. */
  finishBlock(): void {
    this.newest = (this.newest + this.count - 1) % this.count;
    this.fft.transform(this.spectrum, this.input);
    const at = this.newest * 2 * this.points;
    for (let k = 0; k < 2 * this.points; k++) this.history[at + k] = this.spectrum[k];
    for (let n = 0; n < 2 * this.frames; n++) this.input[n] = this.input[n + 2 * this.frames];
  }

  /** Adds what one partition gives to a sum. @param ago how many blocks ago it is worked out for; more are to be kept then */
  add(partition: number, { direct, mirrored }: Partitions, sum: number[], ago = 0): void {
    const { history, points } = this;
    const from = ((this.newest + partition + ago) % this.count) * 2 * points;
    const to = partition * 2 * points;
    for (let k = 0; k < 2 * points; k += 2) {
      const re = history[from + k];
      const im = history[from + k + 1];
      sum[k] += re * direct[to + k] - im * direct[to + k + 1];
      sum[k + 1] += re * direct[to + k + 1] + im * direct[to + k];
    }
    if (!mirrored) return;
    // The spectrum of the conjugate signal is conj(Z[−k]).
    for (let k = 0; k < 2 * points; k += 2) {
      const opposite = k === 0 ? 0 : 2 * points - k;
      const re = history[from + opposite];
      const im = -history[from + opposite + 1];
      sum[k] += re * mirrored[to + k] - im * mirrored[to + k + 1];
      sum[k + 1] += re * mirrored[to + k + 1] + im * mirrored[to + k];
    }
  }

  /** Makes a block of output, complex, of what was added up. */
  output(sum: number[], into: Float64Array): void {
    this.fft.inverseTransform(this.result, sum);
    for (let n = 0; n < 2 * this.frames; n++) into[n] = this.result[2 * this.frames + n];
  }

  get isSound(): boolean {
    let zeros = 0;
    for (let i = 0; i < this.history.length; i++) zeros += this.history[i] * 0;
    return zeros === 0;
  }

  reset(): void {
    this.history.fill(0);
    this.input.fill(0);
  }
}
