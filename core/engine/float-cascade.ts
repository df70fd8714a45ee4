import { Cascade, type KeyedSection } from './cascade';
import { threadKernel, type Kernel } from './kernel/kernel';
import { MAX_BLOCK } from './kernel/layout';

/** A cascade that stays as it is, for files of 32-bit samples. */
export class FloatCascade {
  /** What the lanes are multiplied by at the end. */
  private readonly factors: readonly [number, number];
  private readonly cascade: Cascade;

  /** @param kernel the default is the fastest that this thread has */
  constructor(
    sections: readonly KeyedSection[],
    rateHz: number,
    private readonly channels: 1 | 2,
    kernel: Kernel = threadKernel(),
  ) {
    this.cascade = new Cascade(sections, rateHz, kernel);
    this.factors = this.cascade.fix();
  }

  /**
   * Runs samples through, in place.
   * @param samples interleaved where there are two channels
   * @returns false when one of them is not a number; they are lost then
   */
  process(samples: Float32Array): boolean {
    const { cascade, channels } = this;
    const { kernel } = cascade;
    for (let at = 0; at < samples.length; at += channels * MAX_BLOCK) {
      const block = samples.subarray(at, at + channels * MAX_BLOCK);
      const frames = block.length / channels;
      kernel.floats.set(block);
      if (!kernel.loadFloats(frames, channels === 1)) return false;
      cascade.processLanes(frames);
      kernel.storeFloats(frames, channels === 1, this.factors);
      block.set(kernel.floats.subarray(0, block.length));
    }
    cascade.flushAll();
    return true;
  }
}
