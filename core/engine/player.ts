import type { CompiledSong } from './compile';
import type { Engine } from './engine';
import { MAX_BLOCK } from './kernel/layout';
import { LoopPlayback, type LoopFrames } from './loop-playback';
import type { Reader, SampleSource } from './source';
import { Tail } from './tail';

const FADE_SECONDS = 0.006;
/** Blocks that are run ahead in the time of one. */
const HASTE = 8;
/** A start and a seek wait so long, at most, until the samples of all tracks are there for the first moment. */
const WAIT_SECONDS = 0.5;
const MOMENT_SECONDS = 0.25;

/**
 * The transport: plays, stops, seeks and loops an engine without a click. Starts, stops and seeks fade over 6 ms; the end
 * of a loop is blended over its last 8 ms into what lies before its start, so that the wrap continues the waveform, and the
 * loop keeps its exact length.
 *
 * A start, and a seek, wait for a moment until all tracks can begin together; then what is there is played.
 *
 * Where equalizers of linear phase make the sound late, the position is that of what is heard: a start runs the engine ahead in silence,
 * {@link HASTE} times as fast as it plays, until what is wanted comes out; the fade is taken at the output then, and what a stop cuts
 * off is forgotten. A song that shifts the latency is taken in silence too. `process` allocates nothing but where such a song is taken.
 */
export class Player {
  private frame = 0;
  private wanted: 'playing' | 'stopped' = 'stopped';
  private fade = 0;
  private seekTo = -1;
  /** Frames that the engine still runs ahead before anything is heard. */
  private ahead = 0;
  /** Frames that have come out since the last start or jump. */
  private sinceJump = 0;
  /** Frames for which a start still waits for samples. */
  private patience = 0;
  private isWaiting = false;
  private nextSong: CompiledSong | null = null;
  private readonly loop: LoopPlayback;
  private readonly tail: Tail;
  private readonly gains = new Float64Array(MAX_BLOCK);
  private readonly unheard = new Float32Array(MAX_BLOCK);
  private readonly fadeStep: number;
  private readonly reader: Reader;

  constructor(private readonly engine: Engine) {
    this.fadeStep = 1 / (FADE_SECONDS * engine.rateHz);
    this.loop = new LoopPlayback(engine.rateHz);
    this.tail = new Tail(engine.rateHz);
    this.reader = { read: (source, frame, count, left, right) => this.readFaded(source, frame, count, left, right) };
  }

  /** The frame that comes out next. */
  get position(): number {
    return this.positionBefore(0);
  }

  /**
   * The frame that is heard while it plays; no further back than the last start or jump.
   * @param lateFrames from where it comes out to where it is heard
   */
  heardPosition(lateFrames: number): number {
    return this.positionBefore(this.isPlaying ? Math.min(lateFrames, this.sinceJump) : 0);
  }

  private positionBefore(frames: number): number {
    if (this.seekTo >= 0) return this.seekTo;
    return this.loop.before(this.frame, this.engine.latencyFrames - this.ahead + frames);
  }

  /** Takes a song or the next state of it: eased in where that can be, in silence where it shifts the latency. */
  setSong(song: CompiledSong): void {
    const isSilent = this.fade === 0;
    if (!this.engine.wouldShift(song) && !this.nextSong) this.engine.setSong(song);
    else if (!isSilent) this.nextSong = song;
    else {
      const heard = this.position;
      this.engine.setSong(song, true);
      this.nextSong = null;
      this.arriveAt(heard);
    }
  }

  get isPlaying(): boolean {
    return this.wanted === 'playing';
  }

  /** True once it has stopped and everything has rung out: nothing is computed then. */
  get isResting(): boolean {
    return this.fade === 0 && this.wanted === 'stopped' && this.tail.isOver;
  }

  play(): void {
    if (this.isResting) {
      // What was still in the filters when it came to rest is not heard in another place of the song.
      this.engine.reset();
      this.engine.jump(this.frame);
    }
    if (this.fade === 0) {
      this.patience = WAIT_SECONDS * this.engine.rateHz;
      this.sinceJump = 0;
    }
    this.wanted = 'playing';
  }

  stop(): void {
    this.wanted = 'stopped';
  }

  /** @param frame position in the song, ≥ 0 */
  seek(frame: number): void {
    if (this.fade === 0) this.arriveAt(frame);
    else this.seekTo = frame;
  }

  /** At silence: the next sound is that of a frame. */
  private arriveAt(frame: number): void {
    this.frame = frame;
    this.seekTo = -1;
    this.sinceJump = 0;
    this.loop.forget();
    this.engine.jump(frame);
    this.patience = WAIT_SECONDS * this.engine.rateHz;
    this.ahead = this.engine.latencyFrames;
    if (this.ahead > 0) this.engine.reset();
  }

  /** @param loop null plays on; a loop shorter than 50 ms counts as none */
  setLoop(loop: LoopFrames | null): void {
    this.loop.set(loop);
  }

  /** The next `frames` frames of what is heard; silence once stopped and rung out. */
  process(frames: number, outLeft: Float32Array, outRight: Float32Array): void {
    let done = 0;
    while (done < frames) {
      if (this.fade === 0) this.land();
      this.isWaiting = this.mustWait();
      const count = this.runLength(frames - done);
      const left = done === 0 && count === frames ? outLeft : outLeft.subarray(done, done + count);
      const right = done === 0 && count === frames ? outRight : outRight.subarray(done, done + count);
      if (this.isResting || this.ahead > 0) {
        left.fill(0);
        right.fill(0);
        this.engine.masterLevels.peak = 0;
        this.engine.masterLevels.power = 0;
        if (!this.isResting && !this.isWaiting) this.runAhead(count);
      } else {
        this.prepareFade(count);
        this.engine.process(this.frame, count, left, right, this.reader);
        if (this.isLate) this.fadeOutput(count, left, right);
        this.advance(count);
      }
      if (this.isWaiting) this.wait(count);
      done += count;
    }
  }

  /** At silence: true while a start waits for samples that are on their way. */
  private mustWait(): boolean {
    if (this.patience <= 0 || this.fade > 0 || this.wanted !== 'playing') return false;
    if (!this.engine.isThere(this.frame, this.firstMoment)) return true;
    this.patience = 0;
    return false;
  }

  private wait(count: number): void {
    this.patience -= count;
    if (this.patience <= 0) this.engine.endWait(this.frame, this.firstMoment);
  }

  /** Frames that are wanted of every track before it begins. */
  private get firstMoment(): number {
    return this.loop.runLength(this.frame, Math.round(MOMENT_SECONDS * this.engine.rateHz));
  }

  /** At silence: a seek takes its new place, a song that shifts the latency is taken. */
  private land(): void {
    if (this.nextSong) {
      const heard = this.position;
      this.engine.setSong(this.nextSong, true);
      this.nextSong = null;
      this.arriveAt(heard);
    } else if (this.seekTo >= 0) this.arriveAt(this.seekTo);
  }

  private get isHeading(): 'up' | 'down' {
    return this.wanted === 'playing' && this.seekTo < 0 && !this.nextSong && !this.isWaiting ? 'up' : 'down';
  }

  /** True where linear phase makes the sound late: fades are taken at the output then. */
  private get isLate(): boolean {
    return this.engine.latencyFrames > 0;
  }

  /** Runs the engine on, unheard. */
  private runAhead(count: number): void {
    if (this.wanted !== 'playing') return;
    for (let block = 0; block < HASTE && this.ahead > 0; block++) {
      const frames = Math.min(this.runLength(count), this.ahead);
      this.gains.fill(1);
      this.engine.process(this.frame, frames, this.unheard, this.unheard, this.reader);
      this.ahead -= frames;
      this.moveOn(frames);
    }
  }

  private fadeOutput(count: number, left: Float32Array, right: Float32Array): void {
    const { gains } = this;
    if (gains[0] === 1 && gains[count - 1] === 1) return;
    for (let n = 0; n < count; n++) {
      left[n] *= gains[n];
      right[n] *= gains[n];
    }
  }

  /** How far the position runs on without a jump. */
  private runLength(frames: number): number {
    let count = Math.min(frames, MAX_BLOCK);
    if (this.fade > 0 && this.isHeading === 'down') count = Math.min(count, Math.ceil(this.fade / this.fadeStep));
    return Math.max(1, this.engine.runLength(this.frame, this.loop.runLength(this.frame, count)));
  }

  private prepareFade(count: number): void {
    const step = this.isHeading === 'up' ? this.fadeStep : -this.fadeStep;
    let fade = this.fade;
    for (let n = 0; n < count; n++) {
      fade = Math.min(1, Math.max(0, fade + step));
      this.gains[n] = 0.5 - 0.5 * Math.cos(Math.PI * fade);
    }
    this.fade = fade < 1e-9 ? 0 : fade;
    if (this.fade > 0) this.tail.begin();
  }

  private advance(count: number): void {
    if (this.isWaiting) return;
    if (this.fade > 0 || this.wanted === 'playing') {
      this.moveOn(count);
      this.sinceJump += count;
    } else if (this.isLate) {
      // What is still in the filters is forgotten: the next start begins where this one ended.
      this.arriveAt(this.position);
      this.tail.end();
    } else this.tail.pass(count, this.engine.masterLevels.peak);
  }

  private moveOn(count: number): void {
    this.frame = this.loop.moveOn(this.frame, count);
  }

  private readFaded(source: SampleSource, frame: number, count: number, left: Float64Array, right: Float64Array): void {
    this.loop.read(source, frame, count, left, right);
    const { gains } = this;
    if (this.isLate || (gains[0] === 1 && gains[count - 1] === 1)) return;
    for (let n = 0; n < count; n++) {
      left[n] *= gains[n];
      if (source.channels === 2) right[n] *= gains[n];
    }
  }
}
