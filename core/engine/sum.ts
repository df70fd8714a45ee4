import { roomFor, threadKernel, type Kernel, type Levels, type SectionMemory } from './kernel/kernel';
import { MAX_BLOCK, SECTION_STRIDE } from './kernel/layout';

/**
 * The sides of sums must not lie whole memory pages apart, where a processor takes reads of one for writes of the other: in the room that
 * each sum has its sides begin at another place.
 */
const BETWEEN_SIDES = 80;
const SKEW = 104;
const SKEWS = 8;
const ROOM = 2 * MAX_BLOCK + BETWEEN_SIDES + SKEW * (SKEWS - 1);
let made = 0;

/** A stereo sum of a block, in the memory of this thread's kernel where it has room. */
export class Sum {
  readonly left: Float64Array;
  readonly right: Float64Array;
  private readonly kernel: Kernel;
  private readonly memory: SectionMemory;

  constructor() {
    ({ kernel: this.kernel, memory: this.memory } = roomFor(Math.ceil(ROOM / SECTION_STRIDE), threadKernel()));
    const { numbers } = this.memory;
    const at = (made++ % SKEWS) * SKEW;
    this.left = numbers.subarray(at, at + MAX_BLOCK);
    this.right = numbers.subarray(at + MAX_BLOCK + BETWEEN_SIDES, at + 2 * MAX_BLOCK + BETWEEN_SIDES);
  }

  /** True where this thread's kernel can add to it. */
  get isInKernel(): boolean {
    return this.kernel === threadKernel();
  }

  clear(frames: number): void {
    this.left.fill(0, 0, frames);
    this.right.fill(0, 0, frames);
  }

  /** @param left samples, at most {@link MAX_BLOCK} of them, as `right` */
  add(left: Float64Array, right: Float64Array, frames: number): void {
    this.kernel.add(this.left, left, frames);
    this.kernel.add(this.right, right, frames);
  }

  /**
   * Adds two sides, each times a factor.
   * @param levels raised by what is added; null where nobody asks
   * @param gains for each sample another factor, of both sides; null where there are none
   */
  addScaled(
    left: Float64Array,
    right: Float64Array,
    ofLeft: number,
    ofRight: number,
    frames: number,
    levels: Levels | null,
    gains: Float64Array | null = null,
  ): void {
    const { kernel } = this;
    if (gains) {
      if (ofLeft !== 0) kernel.addMoving(this.left, left, gains, ofLeft, frames, levels);
      if (ofRight !== 0) kernel.addMoving(this.right, right, gains, ofRight, frames, levels);
    } else {
      if (ofLeft !== 0) kernel.addScaled(this.left, left, ofLeft, frames, levels);
      if (ofRight !== 0) kernel.addScaled(this.right, right, ofRight, frames, levels);
    }
  }

  /** True for numbers only, none of them infinite. */
  isFinite(frames: number): boolean {
    return this.kernel.areFinite(this.left, frames) && this.kernel.areFinite(this.right, frames);
  }

  /** Gives its memory back to the kernel: it must not be used again. */
  release(): void {
    this.kernel.release(this.memory);
  }
}

/** What the strips of a song are led into. */
export interface Sums {
  master: Sum;
  buses: Sum[];
}

export const sumOf = (sums: Sums, bus: number) => (bus < 0 ? sums.master : sums.buses[bus]);

/** All of them, the master's first. */
export const allSums = ({ master, buses }: Sums): Sum[] => [master, ...buses];
