import { ReferenceKernel } from './reference-kernel';
import { SimdKernel } from './simd-kernel';

/**
 * The inner loops of the equalizer: second-order sections over two lanes of 64-bit samples. Two kernels compute the same numbers to
 * the last bit: the compiled one of WebAssembly with SIMD, and the plain one, which is its reference and runs where there is no SIMD.
 * A kernel belongs to one thread; nothing of it allocates while it runs.
 */
export interface Kernel {
  readonly name: 'simd' | 'reference';
  /** A block in the kernel's memory for what is worked on, one array for each side, {@link MAX_BLOCK} frames long. */
  readonly left: Float64Array;
  readonly right: Float64Array;
  /** A block in the kernel's memory for gains that move. */
  readonly gains: Float64Array;
  /**
   * Room for the numbers of sections, as `layout.ts` says; all zero.
   * @returns null when the kernel's memory is used up
   */
  allocate(sections: number): SectionMemory | null;
  /** Takes memory back that {@link allocate} gave, for others to use; it must not be used again. */
  release(memory: SectionMemory): void;
  /**
   * Takes samples into the lanes, from a place of theirs on; those in the kernel's own memory need no copying.
   * @param right null for mono: `left` into both
   */
  load(left: Float64Array, right: Float64Array | null, at: number, frames: number): void;
  /** Gives the lanes back: see {@link load}. */
  store(left: Float64Array, right: Float64Array | null, at: number, frames: number): void;
  /** Room for a block of 32-bit samples, interleaved where they are stereo. */
  readonly floats: Float32Array;
  /** Takes `floats` into the lanes; mono into both. @returns false when one of them is not a number */
  loadFloats(frames: number, mono: boolean): boolean;
  /** Gives the lanes, times a factor each, back to `floats`; for mono, the first. */
  storeFloats(frames: number, mono: boolean, factors: readonly [number, number]): void;
  /**
   * Takes 32-bit samples into the lanes, an array for each; it may be the same for both.
   * @param left in memory that {@link allocate} gave, as `right`
   * @returns false when all of them are zero
   */
  loadPlanar(left: Float32Array, right: Float32Array, at: number, frames: number): boolean;
  /** Adds the lanes, times a factor each, to a sum. @param left memory that {@link allocate} gave, as `right` */
  mix(left: Float64Array, right: Float64Array, leftFactor: number, rightFactor: number, frames: number): void;
  /** Adds samples to a sum. @param sum memory that {@link allocate} gave */
  add(sum: Float64Array, samples: Float64Array, frames: number): void;
  /**
   * Adds samples, times a factor, to a sum.
   * @param sum memory that {@link allocate} gave
   * @param levels raised by what is added; null where nobody asks
   */
  addScaled(sum: Float64Array, samples: Float64Array, factor: number, frames: number, levels: Levels | null): void;
  /** As {@link addScaled}, times a gain for each sample. @param gains mostly {@link Kernel.gains} */
  addMoving(sum: Samples, from: Samples, gains: Samples, factor: number, frames: number, levels: Levels | null): void;
  /** True for numbers only, none of them infinite. @param samples memory that {@link allocate} gave */
  areFinite(samples: Float64Array, frames: number): boolean;
  /** Left and right become mid and side, (l + r)/2 and (l − r)/2. */
  toMidSide(frames: number): void;
  /** Mid and side become left and right, m + s and m − s. */
  toLeftRight(frames: number): void;
  /** Runs sections that rest, one after the other, in direct form II. */
  run(memory: SectionMemory, first: number, count: number, frames: number): void;
  /** As {@link run}, for sections whose b0 is 1 in both lanes: that costs a ninth less. */
  runOfOne(memory: SectionMemory, first: number, count: number, frames: number): void;
  /**
   * Runs sections as state-variable filters while their parameters follow their targets, a step every four frames.
   * @param follow 0 to 1: share of the way for each step
   * @param phase frames of a step that are over already: 0 to 3
   */
  ease(memory: SectionMemory, first: number, count: number, frames: number, follow: number, phase: number): void;
  /** Clears what sections remember that is smaller than {@link SILENCE}: numbers too small to be normal would make silence expensive. */
  flush(memory: SectionMemory, first: number, count: number): void;
}

/** 64-bit samples of one side, or gains of them. */
export type Samples = Float64Array;

/** What is measured of a block: its peak (linear), and the sum of squares of its two sides. */
export interface Levels {
  peak: number;
  power: number;
}

/** The numbers of some sections, in the memory of the kernel that made it. */
export interface SectionMemory {
  readonly numbers: Float64Array;
}

const spare = new ReferenceKernel();

/** Room for sections in a kernel, or in the plain one where the memory of the first is used up. */
export function roomFor(sections: number, kernel: Kernel): { kernel: Kernel; memory: SectionMemory } {
  const memory = kernel.allocate(sections);
  return memory ? { kernel, memory } : { kernel: spare, memory: spare.allocate(sections) };
}

let ofThisThread: Kernel | undefined;

/** The kernel of this thread: the compiled one wherever it runs. */
export function threadKernel(): Kernel {
  return (ofThisThread ??= SimdKernel.create() ?? new ReferenceKernel());
}
