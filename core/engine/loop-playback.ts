import { MAX_BLOCK } from './kernel/layout';
import type { SampleSource } from './source';

/** A stretch that is repeated, in frames: `start` is heard again right after `end − 1`. */
export interface LoopFrames {
  start: number;
  end: number;
}

const SEAM_SECONDS = 0.008;
const SHORTEST_SECONDS = 0.05;

/**
 * How a position moves on through a loop, and what is read of a source there: the last 8 ms are blended into what lies before the start, so
 * that the wrap continues the waveform, and the loop keeps its exact length.
 */
export class LoopPlayback {
  private loop: LoopFrames | null = null;
  /** Frames since it went back to its start, and the loop as it was then. */
  private sinceWrap = Infinity;
  private wrapped: LoopFrames = { start: 0, end: 0 };
  private readonly seamLeft = new Float64Array(MAX_BLOCK);
  private readonly seamRight = new Float64Array(MAX_BLOCK);
  private readonly seamFrames: number;

  constructor(private readonly rateHz: number) {
    this.seamFrames = Math.round(SEAM_SECONDS * rateHz);
  }

  /** @param loop null plays on; a loop shorter than 50 ms counts as none */
  set(loop: LoopFrames | null): void {
    this.loop = loop !== null && loop.end - loop.start >= SHORTEST_SECONDS * this.rateHz ? loop : null;
  }

  /** The position was changed: it has not come from a loop's end. */
  forget(): void {
    this.sinceWrap = Infinity;
  }

  /** The frame that was run so many frames ago. */
  before(frame: number, late: number): number {
    if (this.sinceWrap >= late) return Math.max(0, frame - late);
    const { start, end } = this.wrapped;
    return end - 1 - ((late - this.sinceWrap - 1) % (end - start));
  }

  /** How many frames of some there are before the loop's end. */
  runLength(frame: number, count: number): number {
    return this.loop && frame < this.loop.end ? Math.min(count, this.loop.end - frame) : count;
  }

  /** The frame after so many, no more than {@link runLength} says. */
  moveOn(frame: number, count: number): number {
    this.sinceWrap += count;
    if (!this.loop || frame + count !== this.loop.end) return frame + count;
    this.sinceWrap = 0;
    this.wrapped = this.loop;
    return this.loop.start;
  }

  /** What is heard of a source. */
  read(source: SampleSource, frame: number, count: number, left: Float64Array, right: Float64Array): void {
    source.read(frame, count, left, right);
    const { loop, seamFrames } = this;
    if (loop && frame < loop.end && frame + count > loop.end - seamFrames)
      this.blend(source, frame, count, left, right, loop);
  }

  private blend(
    source: SampleSource,
    frame: number,
    count: number,
    left: Float64Array,
    right: Float64Array,
    loop: LoopFrames,
  ): void {
    const { seamLeft, seamRight, seamFrames } = this;
    source.read(frame - (loop.end - loop.start), count, seamLeft, seamRight);
    for (let n = 0; n < count; n++) {
      const into = frame + n - (loop.end - seamFrames);
      if (into < 0) continue;
      const share = 0.5 - 0.5 * Math.cos((Math.PI * (into + 1)) / (seamFrames + 1));
      left[n] += share * (seamLeft[n] - left[n]);
      if (source.channels === 2) right[n] += share * (seamRight[n] - right[n]);
    }
  }
}
