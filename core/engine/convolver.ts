import FFT from 'fft.js';
import type { LinearPhaseDesign } from '../filters/linear-phase';

/** Frames that a convolver takes at a time. */
const PARTITION = 512;
const POINTS = 2 * PARTITION;
/** Doubles of one spectrum: real and imaginary parts in turn. */
const SPECTRUM = 2 * POINTS;

/**
 * A matrix of impulse responses as the spectra of its partitions, for a signal z = left + j·right: the output is `direct * z +
 * mirrored * conj(z)`, which is left in its real part and right in its imaginary one.
 */
export interface ConvolutionKernel {
  latencyFrames: number;
  partitions: number;
  direct: Float64Array;
  /** null where both sides pass alike. */
  mirrored: Float64Array | null;
}

/** Spectra of the partitions of a complex response. */
function partitionSpectra(real: Float64Array, imaginary: Float64Array): Float64Array {
  const fft = new FFT(POINTS);
  const partitions = real.length / PARTITION;
  const spectra = new Float64Array(partitions * SPECTRUM);
  const padded = new Array<number>(SPECTRUM).fill(0);
  const out = new Array<number>(SPECTRUM).fill(0);
  for (let p = 0; p < partitions; p++) {
    for (let n = 0; n < PARTITION; n++) {
      padded[2 * n] = real[p * PARTITION + n];
      padded[2 * n + 1] = imaginary[p * PARTITION + n];
    }
    fft.transform(out, padded);
    spectra.set(out, p * SPECTRUM);
  }
  return spectra;
}

/** A design as a convolver runs it. The latency is half of the taps, and the block that is gathered first. */
export function toKernel({ taps, leftToLeft, sides }: LinearPhaseDesign): ConvolutionKernel {
  const shape = { latencyFrames: taps / 2 + PARTITION, partitions: taps / PARTITION };
  if (!sides) return { ...shape, direct: partitionSpectra(leftToLeft, new Float64Array(taps)), mirrored: null };
  const { leftToRight, rightToLeft, rightToRight } = sides;
  // With l = (z + z*)/2 and r = (z − z*)/2j, out = (ll·l + rl·r) + j(lr·l + rr·r).
  const combine = (sign: 1 | -1) =>
    partitionSpectra(
      leftToLeft.map((value, n) => (value + sign * rightToRight[n]) / 2),
      leftToRight.map((value, n) => (value - sign * rightToLeft[n]) / 2),
    );
  return { ...shape, direct: combine(1), mirrored: combine(-1) };
}

/** A kernel that only delays, with the latency of another: what is heard when an equalizer is switched off or bypassed. */
export function delayKernel({ latencyFrames, partitions }: ConvolutionKernel): ConvolutionKernel {
  const direct = new Float64Array(partitions * SPECTRUM);
  const middle = (latencyFrames - PARTITION) / PARTITION;
  for (let k = 0; k < POINTS; k++) direct[middle * SPECTRUM + 2 * k] = 1;
  return { latencyFrames, partitions, direct, mirrored: null };
}

/**
 * Convolution with a long response in equal partitions (G. Garcia, "Optimal Filter Partition for Efficient Convolution with Short
 * Input/Output Delay", AES 113, 2002; overlap-save). A change of the kernel is eased: over one block the output goes from the old
 * kernel's to the new one's along half a cosine. `process` allocates nothing.
 */
export class Convolver {
  private readonly fft = new FFT(POINTS);
  private readonly partitions: number;
  private current: ConvolutionKernel;
  private next: ConvolutionKernel | null = null;
  private waiting: ConvolutionKernel | null = null;
  /** Spectra of the last blocks of input, a ring; and those of the conjugate signal. */
  private readonly history: Float64Array;
  private readonly mirrored: Float64Array;
  private newest = 0;
  /** The last block and the one that is gathered, complex. */
  private readonly input = new Array<number>(SPECTRUM).fill(0);
  private readonly output = new Float64Array(2 * PARTITION);
  private filled = 0;
  private readonly spectrum = new Array<number>(SPECTRUM).fill(0);
  private readonly sum = new Array<number>(SPECTRUM).fill(0);
  private readonly result = new Array<number>(SPECTRUM).fill(0);

  /** @param offset frames by which its blocks are shifted, so that many convolvers do not all work in the same moment: 0 to 511 */
  constructor(
    kernel: ConvolutionKernel,
    private readonly offset = 0,
  ) {
    this.current = kernel;
    this.partitions = kernel.partitions;
    this.history = new Float64Array(this.partitions * SPECTRUM);
    this.mirrored = new Float64Array(this.partitions * SPECTRUM);
    this.filled = offset;
  }

  get latencyFrames(): number {
    return this.current.latencyFrames;
  }

  /** The kernel to run from now on. @param kernel as long as the one that runs */
  setKernel(kernel: ConvolutionKernel, immediately = false): void {
    if (immediately) {
      this.current = kernel;
      this.next = this.waiting = null;
    } else if (kernel !== (this.waiting ?? this.next ?? this.current)) this.waiting = kernel;
  }

  /** Forgets the past of the signal. */
  reset(): void {
    this.history.fill(0);
    this.mirrored.fill(0);
    this.input.fill(0);
    this.output.fill(0);
    this.filled = this.offset;
    if (this.waiting) this.current = this.waiting;
    else if (this.next) this.current = this.next;
    this.next = this.waiting = null;
  }

  /** In place. @param right null for mono */
  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    for (let n = 0; n < frames; n++) {
      const at = 2 * this.filled;
      this.input[2 * PARTITION + at] = left[n];
      this.input[2 * PARTITION + at + 1] = right ? right[n] : 0;
      left[n] = this.output[at];
      if (right) right[n] = this.output[at + 1];
      if (++this.filled === PARTITION) this.runBlock();
    }
  }

  private runBlock(): void {
    this.filled = 0;
    this.newest = (this.newest + this.partitions - 1) % this.partitions;
    this.fft.transform(this.spectrum, this.input);
    this.keep();
    for (let n = 0; n < 2 * PARTITION; n++) this.input[n] = this.input[n + 2 * PARTITION];
    this.convolve(this.current);
    for (let n = 0; n < 2 * PARTITION; n++) this.output[n] = this.result[2 * PARTITION + n];
    this.next ??= this.waiting;
    if (!this.next) return;
    if (this.next === this.waiting) this.waiting = null;
    this.convolve(this.next);
    for (let n = 0; n < PARTITION; n++) {
      const share = 0.5 - 0.5 * Math.cos((Math.PI * (n + 0.5)) / PARTITION);
      for (let i = 2 * n; i < 2 * n + 2; i++)
        this.output[i] += share * (this.result[2 * PARTITION + i] - this.output[i]);
    }
    this.current = this.next;
    this.next = null;
  }

  /** Puts the newest spectrum into the ring, with that of the conjugate signal: conj(Z[−k]). */
  private keep(): void {
    const at = this.newest * SPECTRUM;
    for (let k = 0; k < POINTS; k++) {
      const opposite = (POINTS - k) % POINTS;
      this.history[at + 2 * k] = this.spectrum[2 * k];
      this.history[at + 2 * k + 1] = this.spectrum[2 * k + 1];
      this.mirrored[at + 2 * k] = this.spectrum[2 * opposite];
      this.mirrored[at + 2 * k + 1] = -this.spectrum[2 * opposite + 1];
    }
  }

  private convolve({ direct, mirrored }: ConvolutionKernel): void {
    this.sum.fill(0);
    this.accumulate(this.history, direct);
    if (mirrored) this.accumulate(this.mirrored, mirrored);
    this.fft.inverseTransform(this.result, this.sum);
  }

  private accumulate(history: Float64Array, kernel: Float64Array): void {
    const { sum, partitions, newest } = this;
    for (let p = 0; p < partitions; p++) {
      const from = ((newest + p) % partitions) * SPECTRUM;
      const to = p * SPECTRUM;
      for (let k = 0; k < SPECTRUM; k += 2) {
        const re = history[from + k];
        const im = history[from + k + 1];
        const kernelRe = kernel[to + k];
        const kernelIm = kernel[to + k + 1];
        sum[k] += re * kernelRe - im * kernelIm;
        sum[k + 1] += re * kernelIm + im * kernelRe;
      }
    }
  }
}
