import { ReferenceKernel } from './reference-kernel';
import { SimdKernel } from './simd-kernel';

/**
 * The inner loops of the equalizer: second-order sections over two lanes of 64-bit samples. Two kernels compute the same numbers to
 * the last bit: the compiled one of WebAssembly with SIMD, and the plain one, which is its reference and runs where there is no SIMD.
 * A kernel belongs to one thread; nothing of it allocates while it runs.
 */
export interface Kernel {
  readonly name: 'simd' | 'reference';
  /** The block that is worked on, one array for each side, {@link MAX_BLOCK} frames long. */
  readonly left: Float64Array;
  readonly right: Float64Array;
  /**
   * Room for the numbers of sections, as `layout.ts` says; all zero.
   * @returns null when the kernel's memory is used up
   */
  allocate(sections: number): SectionMemory | null;
  /** Takes `left` and `right` into the lanes; for mono, `left` into both. */
  load(frames: number, mono: boolean): void;
  /** Gives the lanes back to `left` and `right`; for mono, to `left` alone. */
  store(frames: number, mono: boolean): void;
  /** Room for a block of 32-bit samples, interleaved where they are stereo. */
  readonly floats: Float32Array;
  /** Takes `floats` into the lanes; mono into both. @returns false when one of them is not a number */
  loadFloats(frames: number, mono: boolean): boolean;
  /** Gives the lanes back to `floats`; for mono, the first. */
  storeFloats(frames: number, mono: boolean): void;
  /** Left and right become mid and side, (l + r)/2 and (l − r)/2. */
  toMidSide(frames: number): void;
  /** Mid and side become left and right, m + s and m − s. */
  toLeftRight(frames: number): void;
  /** Runs sections that rest, one after the other, in direct form II. */
  run(memory: SectionMemory, first: number, count: number, frames: number): void;
  /** Runs one section as a state-variable filter while its parameters follow their targets, sample by sample. @param follow 0 to 1: share of the way for each sample */
  ease(memory: SectionMemory, index: number, frames: number, follow: number): void;
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
