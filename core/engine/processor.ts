import type { Between } from './cascade';
import type { KeyBlocks } from './keys';

/**
 * What a chain is made of: works on blocks of one or two sides in place and follows changes of its settings without a step.
 * `process` allocates nothing; everything else may.
 */
export interface Processor<Settings> {
  /** True when {@link easeTo} would sound as one smooth move; another one takes its place else. */
  canEaseTo(settings: Settings): boolean;
  easeTo(settings: Settings): void;
  /** Of sections: to a place between two states of them. */
  moveTo?(between: Between): void;
  /**
   * @param right null for mono
   * @param keys what processors listen to in this block, where that is another strip
   * @param at where in the blocks of the keys these frames begin
   */
  process(left: Float64Array, right: Float64Array | null, frames: number, keys?: KeyBlocks, at?: number): void;
  /** Forgets the past of the signal. */
  reset(): void;
  /** What something within it takes away, or adds, at this moment, dB: for pictures. Undefined where it is not there. */
  gainDbOf?(id: string): number | undefined;
  /** True while the past of the signal is made of finite numbers. */
  readonly isSound: boolean;
  /** How long it must have listened until it sounds as if it always had, frames. */
  readonly warmUpFrames: number;
  /** Gives back what it holds: it must not be used again. */
  release(): void;
}
