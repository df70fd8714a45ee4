import FFT from 'fft.js';
import type { LinearPhaseDesign } from '../filters/linear-phase';
import type { Processor } from './processor';

/** Frames that a convolver takes at a time for the beginning of a response; and for what comes after it. */
const HEAD = 512;
const TAIL = 8192;
/** Where the tail begins: it is two of its blocks late, one that is gathered and one that is worked on, and the head one of its own. */
const TAIL_BEGINS = 2 * TAIL - HEAD;

/**
 * A stretch of a matrix of impulse responses as the spectra of its partitions, for a signal z = left + j·right: the output is `direct * z +
 * mirrored * conj(z)`, which is left in its real part and right in its imaginary one.
 */
interface Partitions {
  count: number;
  direct: Float64Array;
  /** null where both sides pass alike. */
  mirrored: Float64Array | null;
}

/** A response as a convolver runs it. */
export interface ConvolutionKernel {
  latencyFrames: number;
  taps: number;
  /** Its beginning in short partitions, and the rest in long ones. */
  head: Partitions;
  tail: Partitions | null;
}

/** The memory of a kernel, to be handed over to another thread. */
export const kernelBuffers = ({ head, tail }: ConvolutionKernel) =>
  [head.direct, head.mirrored, tail?.direct, tail?.mirrored].flatMap((spectra) => (spectra ? [spectra.buffer] : []));

/** Spectra of the partitions of a complex response. */
function partitionSpectra(real: Float64Array, imaginary: Float64Array, frames: number): Float64Array {
  const fft = new FFT(2 * frames);
  const partitions = Math.ceil(real.length / frames);
  const spectra = new Float64Array(partitions * 4 * frames);
  const padded = new Array<number>(4 * frames).fill(0);
  const out = new Array<number>(4 * frames).fill(0);
  for (let p = 0; p < partitions; p++) {
    for (let n = 0; n < frames; n++) {
      padded[2 * n] = real[p * frames + n] ?? 0;
      padded[2 * n + 1] = imaginary[p * frames + n] ?? 0;
    }
    fft.transform(out, padded);
    spectra.set(out, p * 4 * frames);
  }
  return spectra;
}

/** A design as a convolver runs it. The latency is half of the taps, and the block that is gathered first. */
export function toKernel({ taps, leftToLeft, sides }: LinearPhaseDesign): ConvolutionKernel {
  // With l = (z + z*)/2 and r = (z − z*)/2j, out = (ll·l + rl·r) + j(lr·l + rr·r).
  const combined = (sign: 1 | -1): [Float64Array, Float64Array] =>
    sides
      ? [
          leftToLeft.map((value, n) => (value + sign * sides.rightToRight[n]) / 2),
          sides.leftToRight.map((value, n) => (value - sign * sides.rightToLeft[n]) / 2),
        ]
      : [leftToLeft, new Float64Array(taps)];
  const [direct, mirrored] = [combined(1), sides && combined(-1)];
  const stretch = (from: number, to: number, frames: number): Partitions => {
    const spectra = ([real, imaginary]: [Float64Array, Float64Array]) =>
      partitionSpectra(real.subarray(from, to), imaginary.subarray(from, to), frames);
    return { count: Math.ceil((to - from) / frames), direct: spectra(direct), mirrored: mirrored && spectra(mirrored) };
  };
  const isLong = taps > 2 * TAIL;
  return {
    taps,
    latencyFrames: taps / 2 + HEAD,
    head: stretch(0, isLong ? TAIL_BEGINS : taps, HEAD),
    tail: isLong ? stretch(TAIL_BEGINS, taps, TAIL) : null,
  };
}

/** Blocks of a signal in, blocks of its convolution with some partitions out (overlap-save), in steps that can be spread over time. */
class BlockConvolver {
  private readonly fft: FFT;
  private readonly points: number;
  /** Spectra of the last blocks of input, a ring. */
  private readonly history: Float64Array;
  private newest = 0;
  /** The last block and the one that is gathered, complex. */
  private readonly input: number[];
  private readonly spectrum: number[];
  private readonly result: number[];

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
  take(): void {
    this.newest = (this.newest + this.count - 1) % this.count;
    this.fft.transform(this.spectrum, this.input);
    const at = this.newest * 2 * this.points;
    for (let k = 0; k < 2 * this.points; k++) this.history[at + k] = this.spectrum[k];
    for (let n = 0; n < 2 * this.frames; n++) this.input[n] = this.input[n + 2 * this.frames];
  }

  /** Adds what one partition gives to a sum. */
  add(partition: number, { direct, mirrored }: Partitions, sum: number[]): void {
    const { history, points } = this;
    const from = ((this.newest + partition) % this.count) * 2 * points;
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

  /** The block of output that was added up, complex, from index `2 · frames` on. */
  output(sum: number[]): readonly number[] {
    this.fft.inverseTransform(this.result, sum);
    return this.result;
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

/** Makes one block of output into the next, from the old kernel's to the new one's along half a cosine. */
function fadeOver(result: readonly number[], output: Float64Array, frames: number): void {
  for (let n = 0; n < frames; n++) {
    const share = 0.5 - 0.5 * Math.cos((Math.PI * (n + 0.5)) / frames);
    for (let i = 2 * n; i < 2 * n + 2; i++) output[i] += share * (result[2 * frames + i] - output[i]);
  }
}

/** The kernels that a part of a convolver runs: the one that is heard, and the one that it goes over to with the next block. */
class Succession {
  private waiting: ConvolutionKernel | null = null;

  constructor(public current: ConvolutionKernel) {}

  want(kernel: ConvolutionKernel): void {
    this.waiting = kernel === this.current ? null : kernel;
  }

  /** The next one, which is the current one from now on; null where there is none. */
  takeNext(): ConvolutionKernel | null {
    const next = this.waiting;
    this.waiting = null;
    if (next) this.current = next;
    return next;
  }
}

/** Blocks of the head in one of the tail: so many steps there are to spread the tail's work over, the last two for its transforms. */
const STEPS = TAIL / HEAD;

/** What a long response adds after its beginning, in long blocks whose work is spread over the short ones. */
class Tail {
  private readonly blocks: BlockConvolver;
  private readonly kernels: Succession;
  private readonly count: number;
  /** What is heard now, and what is worked out for the next block. */
  private heard = new Float64Array(2 * TAIL);
  private coming = new Float64Array(2 * TAIL);
  private before: Partitions;
  private after: Partitions | null = null;
  private readonly sumBefore: number[];
  private readonly sumAfter: number[];
  private filled: number;

  /** @param offset frames by which its blocks are shifted: 0 to {@link TAIL}, a multiple of {@link HEAD} */
  constructor(
    kernel: ConvolutionKernel,
    private readonly offset: number,
  ) {
    this.before = kernel.tail!;
    this.count = this.before.count;
    this.blocks = new BlockConvolver(TAIL, this.count);
    [this.sumBefore, this.sumAfter] = [this.blocks.spectra(), this.blocks.spectra()];
    this.kernels = new Succession(kernel);
    this.filled = offset;
  }

  want(kernel: ConvolutionKernel): void {
    this.kernels.want(kernel);
  }

  put(frame: number, left: number, right: number): void {
    this.blocks.put(this.filled + frame, left, right);
  }

  left(frame: number): number {
    return this.heard[2 * (this.filled + frame)];
  }

  right(frame: number): number {
    return this.heard[2 * (this.filled + frame) + 1];
  }

  /** A block of the head is over: does a share of the work. */
  step(): void {
    const step = this.filled / HEAD;
    if (step < STEPS - 2) this.addShare(step);
    else if (step === STEPS - 2) this.finish();
    this.filled += HEAD;
    if (this.filled === TAIL) this.turn();
  }

  private addShare(step: number): void {
    const share = Math.ceil(this.count / (STEPS - 2));
    for (let p = step * share; p < Math.min(this.count, (step + 1) * share); p++) {
      this.blocks.add(p, this.before, this.sumBefore);
      if (this.after) this.blocks.add(p, this.after, this.sumAfter);
    }
  }

  private finish(): void {
    const result = this.blocks.output(this.sumBefore);
    for (let n = 0; n < 2 * TAIL; n++) this.coming[n] = result[2 * TAIL + n];
    if (!this.after) return;
    fadeOver(this.blocks.output(this.sumAfter), this.coming, TAIL);
    this.before = this.after;
  }

  /** A block is over: what was worked out is heard next. */
  private turn(): void {
    [this.heard, this.coming] = [this.coming, this.heard];
    this.after = this.kernels.takeNext()?.tail ?? null;
    this.sumBefore.fill(0);
    this.sumAfter.fill(0);
    this.blocks.take();
    this.filled = 0;
  }

  get isSound(): boolean {
    return this.blocks.isSound;
  }

  reset(): void {
    this.blocks.reset();
    this.sumBefore.fill(0);
    this.sumAfter.fill(0);
    this.heard.fill(0);
    this.coming.fill(0);
    this.filled = this.offset;
    this.kernels.takeNext();
    this.before = this.kernels.current.tail!;
    this.after = null;
  }
}

/** Frames by which the blocks of convolvers are shifted against each other, so that they do not all work in the same moment. */
const SHIFT = 128;

/**
 * Convolution with a long response: its beginning in short partitions, the rest in long ones (G. Garcia, "Optimal Filter Partition for
 * Efficient Convolution with Short Input/Output Delay", AES 113, 2002; overlap-save). A change of the kernel is eased: over one block the
 * output goes from the old kernel's to the new one's. `process` allocates nothing.
 */
export class Convolver implements Processor<ConvolutionKernel> {
  private readonly kernels: Succession;
  private readonly blocks: BlockConvolver;
  private readonly tail: Tail | null;
  private readonly sum: number[];
  private readonly output = new Float64Array(2 * HEAD);
  private readonly offset: number;
  private filled: number;

  /** @param name sets by how much its blocks are shifted: always the same for the same name */
  constructor(
    private readonly kernel: ConvolutionKernel,
    name = '',
  ) {
    this.kernels = new Succession(kernel);
    this.blocks = new BlockConvolver(HEAD, kernel.head.count);
    const shifts = [...name].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
    this.sum = this.blocks.spectra();
    this.offset = (shifts * SHIFT) % HEAD;
    this.tail = kernel.tail && new Tail(kernel, (Math.floor((shifts * SHIFT) / HEAD) * HEAD) % TAIL);
    this.filled = this.offset;
  }

  get warmUpFrames(): number {
    return this.kernel.taps + HEAD;
  }

  canEaseTo(kernel: ConvolutionKernel): boolean {
    return kernel.taps === this.kernel.taps;
  }

  /** The kernel to run from now on. @param kernel as long as the one that runs */
  easeTo(kernel: ConvolutionKernel): void {
    this.kernels.want(kernel);
    this.tail?.want(kernel);
  }

  reset(): void {
    this.blocks.reset();
    this.tail?.reset();
    this.output.fill(0);
    this.filled = this.offset;
    this.kernels.takeNext();
  }

  get isSound(): boolean {
    return this.blocks.isSound && (this.tail?.isSound ?? true);
  }

  release(): void {
    // It holds nothing but its own memory.
  }

  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    const { blocks, tail, output } = this;
    for (let n = 0; n < frames; n++) {
      const at = this.filled;
      const l = left[n];
      const r = right ? right[n] : 0;
      blocks.put(at, l, r);
      left[n] = output[2 * at];
      if (right) right[n] = output[2 * at + 1];
      if (tail) {
        tail.put(at, l, r);
        left[n] += tail.left(at);
        if (right) right[n] += tail.right(at);
      }
      if (++this.filled === HEAD) this.runBlock();
    }
  }

  private runBlock(): void {
    this.filled = 0;
    this.blocks.take();
    const result = this.convolve(this.kernels.current.head);
    for (let n = 0; n < 2 * HEAD; n++) this.output[n] = result[2 * HEAD + n];
    const next = this.kernels.takeNext();
    if (next) fadeOver(this.convolve(next.head), this.output, HEAD);
    this.tail?.step();
  }

  private convolve(partitions: Partitions): readonly number[] {
    this.sum.fill(0);
    for (let p = 0; p < partitions.count; p++) this.blocks.add(p, partitions, this.sum);
    return this.blocks.output(this.sum);
  }
}
