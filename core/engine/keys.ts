import { MAX_BLOCK } from './kernel/layout';

/** What has left a strip's chain in this block, before its fader. */
export interface KeyBlock {
  readonly left: Float64Array;
  readonly right: Float64Array;
  isStereo: boolean;
}

/** What the processors of a strip listen to where that is another strip, by their ids. */
export type KeyBlocks = ReadonlyMap<string, KeyBlock>;
export const NO_KEYS: KeyBlocks = new Map();

/** The strips that others listen to. */
export class KeyTaps {
  private readonly blocks = new Map<string, KeyBlock>();

  /** The block of a strip; silent until the strip has run. */
  of(stripId: string): KeyBlock {
    const known = this.blocks.get(stripId);
    if (known) return known;
    const block = { left: new Float64Array(MAX_BLOCK), right: new Float64Array(MAX_BLOCK), isStereo: false };
    this.blocks.set(stripId, block);
    return block;
  }

  /** @param right null for mono */
  write(stripId: string, left: Float64Array, right: Float64Array | null, frames: number): void {
    const block = this.of(stripId);
    for (let n = 0; n < frames; n++) block.left[n] = left[n];
    if (right) for (let n = 0; n < frames; n++) block.right[n] = right[n];
    block.isStereo = right !== null;
  }
}
