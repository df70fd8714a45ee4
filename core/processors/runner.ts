/** What an equalizer is not: a processor that reacts to levels, bends, or repeats. One runs for each of a strip. */
export interface ProcessorRunner<Settings> {
  /** How late it is, frames; the same while it is off. */
  readonly latencyFrames: number;
  /** How long it must have listened until it sounds nearly as if it always had, frames. */
  readonly warmUpFrames: number;
  /** The gain that it had in the middle of the last block, dB; 0 for what has none. */
  readonly gainDb: number;
  /** True where these settings are reached by {@link update} without a step; another runner takes its place else. */
  canBecome(settings: Settings): boolean;
  /** @param immediately true in silence */
  update(settings: Settings, immediately: boolean): void;
  /**
   * In place; allocates nothing.
   * @param right null for mono
   * @param keyLeft what it listens to; may be the sound itself
   * @param frames 1 to `MAX_BLOCK`
   */
  process(
    left: Float64Array,
    right: Float64Array | null,
    keyLeft: Float64Array,
    keyRight: Float64Array | null,
    frames: number,
  ): void;
  /** Forgets the past of the signal. */
  reset(): void;
  /** True while the past of the signal is made of finite numbers. */
  readonly isSound: boolean;
  /** Gives memory back that it has of a compiled loop: it must not be used again. */
  release?(): void;
}
