import type { Engine, Reader } from './engine';
import { MAX_BLOCK } from './kernel/layout';
import type { SampleSource } from './source';

/** A stretch that is repeated, in frames: `start` is heard again right after `end − 1`. */
export interface LoopFrames {
  start: number;
  end: number;
}

const FADE_SECONDS = 0.006;
const SEAM_SECONDS = 0.008;
/** How long filters are left to ring after a stop before the engine may rest. */
const TAIL_SECONDS = 2;
const SHORTEST_LOOP_SECONDS = 0.05;

/**
 * The transport: plays, stops, seeks and loops an engine without a click. Starts, stops and seeks fade over 6 ms; the end
 * of a loop is blended over its last 8 ms into what lies before its start, so that the wrap continues the waveform, and the
 * loop keeps its exact length. `process` allocates nothing.
 */
export class Player {
  private frame = 0;
  private wanted: 'playing' | 'stopped' = 'stopped';
  private fade = 0;
  private seekTo = -1;
  private silentFrames = Infinity;
  private loop: LoopFrames | null = null;
  private readonly seamLeft = new Float64Array(MAX_BLOCK);
  private readonly seamRight = new Float64Array(MAX_BLOCK);
  private readonly gains = new Float64Array(MAX_BLOCK);
  private readonly fadeStep: number;
  private readonly seamFrames: number;
  private readonly reader: Reader;

  constructor(private readonly engine: Engine) {
    this.fadeStep = 1 / (FADE_SECONDS * engine.rateHz);
    this.seamFrames = Math.round(SEAM_SECONDS * engine.rateHz);
    this.reader = { read: (source, frame, count, left, right) => this.readFaded(source, frame, count, left, right) };
  }

  get position(): number {
    return this.seekTo >= 0 ? this.seekTo : this.frame;
  }

  get isPlaying(): boolean {
    return this.wanted === 'playing';
  }

  /** True once it has stopped and everything has rung out: nothing is computed then. */
  get isResting(): boolean {
    return this.fade === 0 && this.wanted === 'stopped' && this.silentFrames > TAIL_SECONDS * this.engine.rateHz;
  }

  play(): void {
    this.wanted = 'playing';
  }

  stop(): void {
    this.wanted = 'stopped';
  }

  /** @param frame position in the song, ≥ 0 */
  seek(frame: number): void {
    if (this.fade === 0) this.frame = frame;
    else this.seekTo = frame;
  }

  /** @param loop null plays on; a loop shorter than 50 ms counts as none */
  setLoop(loop: LoopFrames | null): void {
    const isLongEnough = loop !== null && loop.end - loop.start >= SHORTEST_LOOP_SECONDS * this.engine.rateHz;
    this.loop = isLongEnough ? loop : null;
  }

  /** The next `frames` frames of what is heard; silence once stopped and rung out. */
  process(frames: number, outLeft: Float32Array, outRight: Float32Array): void {
    let done = 0;
    while (done < frames) {
      if (this.fade === 0) this.land();
      const count = this.runLength(frames - done);
      const left = done === 0 && count === frames ? outLeft : outLeft.subarray(done, done + count);
      const right = done === 0 && count === frames ? outRight : outRight.subarray(done, done + count);
      if (this.isResting) {
        left.fill(0);
        right.fill(0);
        this.engine.masterLevels.peak = 0;
        this.engine.masterLevels.power = 0;
      } else {
        this.prepareFade(count);
        this.engine.process(this.frame, count, left, right, this.reader);
      }
      this.advance(count);
      done += count;
    }
  }

  /** At silence: a seek takes its new place. */
  private land(): void {
    if (this.seekTo >= 0) {
      this.frame = this.seekTo;
      this.seekTo = -1;
    }
  }

  private get isHeading(): 'up' | 'down' {
    return this.wanted === 'playing' && this.seekTo < 0 ? 'up' : 'down';
  }

  /** How far the position runs on without a jump. */
  private runLength(frames: number): number {
    let count = Math.min(frames, MAX_BLOCK);
    if (this.fade > 0 && this.isHeading === 'down') count = Math.min(count, Math.ceil(this.fade / this.fadeStep));
    if (this.loop && this.frame < this.loop.end) count = Math.min(count, this.loop.end - this.frame);
    return Math.max(1, count);
  }

  private prepareFade(count: number): void {
    const step = this.isHeading === 'up' ? this.fadeStep : -this.fadeStep;
    let fade = this.fade;
    for (let n = 0; n < count; n++) {
      fade = Math.min(1, Math.max(0, fade + step));
      this.gains[n] = 0.5 - 0.5 * Math.cos(Math.PI * fade);
    }
    this.fade = fade < 1e-9 ? 0 : fade;
    if (this.fade > 0) this.silentFrames = 0;
  }

  private advance(count: number): void {
    if (this.fade === 0 && this.wanted === 'stopped') {
      this.silentFrames += count;
      return;
    }
    this.frame += count;
    if (this.loop && this.frame === this.loop.end) this.frame = this.loop.start;
  }

  private readFaded(source: SampleSource, frame: number, count: number, left: Float64Array, right: Float64Array): void {
    source.read(frame, count, left, right);
    const stereo = source.channels === 2;
    if (this.loop && frame < this.loop.end && frame + count > this.loop.end - this.seamFrames) {
      this.blendSeam(source, frame, count, left, right, this.loop);
    }
    const { gains } = this;
    if (gains[0] === 1 && gains[count - 1] === 1) return;
    for (let n = 0; n < count; n++) {
      left[n] *= gains[n];
      if (stereo) right[n] *= gains[n];
    }
  }

  private blendSeam(
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
      const blend = 0.5 - 0.5 * Math.cos((Math.PI * (into + 1)) / (seamFrames + 1));
      left[n] += blend * (seamLeft[n] - left[n]);
      if (source.channels === 2) right[n] += blend * (seamRight[n] - right[n]);
    }
  }
}
