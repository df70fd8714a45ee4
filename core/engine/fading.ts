import type { Between } from './cascade';
import { curveOf, FADE_SECONDS } from './fade-curve';
import { MAX_BLOCK } from './kernel/layout';
import { NO_KEYS, type KeyBlocks } from './keys';
import type { Processor } from './processor';

/** How long the input of the one that comes rises, so that its own beginning does not ring in it. */
const RISE_SECONDS = 0.02;

/** It has got ready, and nobody has told it to come in. */
const UNTIL_TOLD = Infinity;

/** One that takes the place of another. */
interface Incoming<Settings> {
  processor: Processor<Settings>;
  /** Frames that it has run, and those in which it only listens. */
  frames: number;
  listening: number;
}

/**
 * A processor that can become another one. Where the settings cannot be eased into, a second one is made and listens until it has caught
 * up with the signal; then the sound goes over from the one to the other along a straight mix of both, which is never louder than the
 * louder of them. What is wanted meanwhile is eased in where it can be, and waits else.
 */
export class Fading<Settings> implements Processor<Settings> {
  private current: Processor<Settings>;
  private incoming: Incoming<Settings> | null = null;
  /** What is wanted after the one that comes. */
  private waiting: { settings: Settings } | null = null;
  private readonly fade: Float64Array;
  private readonly rise: Float64Array;
  /** What goes into the one that comes; made when it is needed for the first time. */
  private input: [Float64Array, Float64Array] | null = null;

  constructor(
    settings: Settings,
    private readonly make: (settings: Settings) => Processor<Settings>,
    rateHz: number,
  ) {
    this.current = make(settings);
    this.fade = curveOf(FADE_SECONDS, rateHz);
    this.rise = curveOf(RISE_SECONDS, rateHz);
  }

  canEaseTo(): boolean {
    return true;
  }

  easeTo(settings: Settings): void {
    if (this.incoming?.listening === UNTIL_TOLD) this.leaveReadiness(settings);
    const { incoming, current } = this;
    this.waiting = null;
    if (incoming?.processor.canEaseTo(settings)) incoming.processor.easeTo(settings);
    else if (incoming && !(incoming.frames <= incoming.listening && current.canEaseTo(settings)))
      this.waiting = { settings };
    else if (current.canEaseTo(settings)) {
      // The one that comes has not been heard yet, and is not wanted any more.
      incoming?.processor.release();
      this.incoming = null;
      current.easeTo(settings);
    } else {
      const processor = this.make(settings);
      this.incoming = { processor, frames: 0, listening: processor.warmUpFrames };
      this.input ??= [new Float64Array(MAX_BLOCK), new Float64Array(MAX_BLOCK)];
    }
  }

  /** What runs, and what comes in its place. */
  each(change: (processor: Processor<Settings>) => void): void {
    change(this.current);
    if (this.incoming) change(this.incoming.processor);
  }

  /** True where it is so of what runs, or of what comes in its place. */
  some(test: (processor: Processor<Settings>) => boolean): boolean {
    return test(this.current) || (this.incoming !== null && test(this.incoming.processor));
  }

  /** See `Cascade.moveTo`: of what can move. */
  moveTo(between: Between): void {
    this.current.moveTo?.(between);
    this.incoming?.processor.moveTo?.(between);
  }

  /**
   * Gets ready for settings that will be wanted: where they cannot be eased into, what takes the place of this one listens already, and comes
   * in without delay when it is told to.
   */
  prepare(settings: Settings): void {
    if (this.incoming || this.current.canEaseTo(settings)) return;
    this.incoming = { processor: this.make(settings), frames: 0, listening: UNTIL_TOLD };
    this.input ??= [new Float64Array(MAX_BLOCK), new Float64Array(MAX_BLOCK)];
  }

  /** What has got ready comes in now, or goes on listening while the one that sounds can be eased. */
  private leaveReadiness(settings: Settings): void {
    const incoming = this.incoming!;
    const { processor, frames } = incoming;
    if (this.current.canEaseTo(settings)) {
      this.incoming = null;
      this.current.easeTo(settings);
      if (processor.canEaseTo(settings)) processor.release();
      else this.incoming = incoming;
    } else if (processor.canEaseTo(settings)) incoming.listening = Math.max(frames, processor.warmUpFrames);
    else {
      processor.release();
      this.incoming = null;
    }
  }

  /** Takes settings at once: in silence. */
  jumpTo(settings: Settings): void {
    this.release();
    this.incoming = this.waiting = null;
    this.current = this.make(settings);
  }

  process(left: Float64Array, right: Float64Array | null, frames: number, keys: KeyBlocks = NO_KEYS, keysAt = 0): void {
    if (!this.incoming) {
      this.current.process(left, right, frames, keys, keysAt);
      return;
    }
    for (let at = 0; at < frames; at += MAX_BLOCK) {
      const count = Math.min(MAX_BLOCK, frames - at);
      const isWhole = count === frames;
      this.processBlock(
        isWhole ? left : left.subarray(at, at + count),
        isWhole || !right ? right : right.subarray(at, at + count),
        count,
        keys,
        keysAt + at,
      );
    }
  }

  /** @param frames at most {@link MAX_BLOCK} */
  private processBlock(
    left: Float64Array,
    right: Float64Array | null,
    frames: number,
    keys: KeyBlocks,
    keysAt: number,
  ): void {
    let at = 0;
    while (this.incoming && at < frames) {
      const { frames: since, listening } = this.incoming;
      const count = Math.min(frames - at, listening + this.fade.length - since);
      const piece = right && right.subarray(at, at + count);
      this.processBoth(this.incoming, left.subarray(at, at + count), piece, count, keys, keysAt + at);
      at += count;
    }
    if (at < frames)
      this.current.process(left.subarray(at), right && right.subarray(at), frames - at, keys, keysAt + at);
  }

  private processBoth(
    incoming: Incoming<Settings>,
    left: Float64Array,
    right: Float64Array | null,
    frames: number,
    keys: KeyBlocks,
    keysAt: number,
  ): void {
    const { processor, frames: since, listening } = incoming;
    const input = this.input!;
    copy(left, input[0], frames);
    raise(input[0], frames, since, this.rise);
    if (right) {
      copy(right, input[1], frames);
      raise(input[1], frames, since, this.rise);
    }
    this.current.process(left, right, frames, keys, keysAt);
    processor.process(input[0], right && input[1], frames, keys, keysAt);
    goOver(left, input[0], frames, since - listening, this.fade);
    if (right) goOver(right, input[1], frames, since - listening, this.fade);
    incoming.frames += frames;
    if (incoming.frames >= listening + this.fade.length) this.arrive(processor);
  }

  private arrive(processor: Processor<Settings>): void {
    this.current.release();
    this.current = processor;
    this.incoming = null;
    if (this.waiting) this.easeTo(this.waiting.settings);
  }

  reset(): void {
    if (this.incoming?.listening === UNTIL_TOLD) {
      this.incoming.processor.reset();
      this.incoming.frames = 0;
    } else if (this.incoming) {
      const { settings } = this.waiting ?? {};
      this.current.release();
      this.current = this.incoming.processor;
      this.incoming = this.waiting = null;
      if (settings !== undefined) this.jumpTo(settings);
    }
    this.current.reset();
  }

  /** What runs while nothing comes in its place; null else. */
  get resting(): Processor<Settings> | null {
    return this.incoming ? null : this.current;
  }

  gainDbOf(id: string): number | undefined {
    return (this.incoming?.processor ?? this.current).gainDbOf?.(id);
  }

  get isSound(): boolean {
    return this.current.isSound && (this.incoming?.processor.isSound ?? true);
  }

  get warmUpFrames(): number {
    return this.current.warmUpFrames;
  }

  release(): void {
    this.current.release();
    this.incoming?.processor.release();
  }
}

function copy(from: Float64Array, to: Float64Array, frames: number): void {
  for (let n = 0; n < frames; n++) to[n] = from[n];
}

/** Lets samples rise from silence that begin so many frames after it. */
function raise(samples: Float64Array, frames: number, since: number, rise: Float64Array): void {
  const count = Math.min(frames, rise.length - since);
  for (let n = 0; n < count; n++) samples[n] *= rise[since + n];
}

/** A block goes over to another, by how far it is into the fade; that may be before its beginning. */
function goOver(block: Float64Array, other: Float64Array, frames: number, into: number, fade: Float64Array): void {
  for (let n = Math.max(0, -into); n < frames; n++) block[n] += fade[into + n] * (other[n] - block[n]);
}
