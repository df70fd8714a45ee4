import type { Kernels } from './chain-runner';
import { isHeard, type CompiledTrack } from './compile';
import { roomFor, threadKernel, type Kernel, type SectionMemory } from './kernel/kernel';
import { SECTION_STRIDE } from './kernel/layout';
import type { KeyTaps } from './keys';
import type { Overhearing, Tap } from './overhearing';
import { MovableShift, ShiftedSource } from './shifted-source';
import { AHEAD_FRAMES, PLAIN_READER, type Reader, type SampleSource, type SourceOf } from './source';
import type { StripEar, StripEars } from './strip-ears';
import type { StraightWay } from './strip-runner';
import { recover, StripRunners, type StripTiming } from './strip-runners';
import { sumOf, type Sums } from './sum';

const NONE: ReadonlySet<string> = new Set();
const GATE_SECONDS = 0.006;
/** After a jump missing samples do not count as late for so long. */
const PATIENCE_SECONDS = 1;

/** How a track is read. */
interface Read {
  source: SampleSource;
  shift?: MovableShift;
}

interface Gate {
  value: number;
  isOpen: boolean;
  /** True where its samples were waited for in vain, and have not come since. */
  isVain: boolean;
}

/** Runs tracks: what their sources hold, through their chains, into the sums. */
export class TrackSection {
  readonly runners: StripRunners;
  private plans: readonly CompiledTrack[] = [];
  private sources: (SampleSource | undefined)[] = [];
  /** Of tracks that somebody may move while they sound. */
  private shifts: (MovableShift | undefined)[] = [];
  /** How each track is read. */
  private read = new Map<string, Read>();
  private taps: (Tap | undefined)[] = [];
  /** For tracks that stay as they are: those that are run in the kernel from their samples to the sum. */
  private ways: (StraightWay | null)[] = [];
  /** Of tracks that are heard by themselves. */
  private ears: (StripEar | null)[] = [];
  private isBound: boolean[] = [];
  private numbers = new Map<string, number>();
  /** What was processed last. */
  private frame = 0;
  private frames = 0;
  private reader: Reader = PLAIN_READER;
  private gatesInOrder: Gate[] = [];
  private isLate = false;
  /** Whether anything of a track is heard. */
  private heard: boolean[] = [];
  private chunks: (Chunk | undefined)[] = [];
  private readonly kernel = threadKernel();
  /** 1 where a track's samples are there, 0 where they are not, on the way between. */
  private gates = new Map<string, Gate>();
  private readonly gateStep: number;
  private readonly gateFrames: number;
  private readonly patienceFrames: number;
  /** Frames in which missing samples are waited for. */
  private patience = 0;
  /** How often samples were not there in time. */
  lateCount = 0;

  /**
   * @param overhearing null for tracks that stay as they were set, which nobody overhears: a render's
   * @param heardBy null where nobody hears them by themselves
   */
  constructor(
    private readonly rateHz: number,
    private readonly sourceOf: SourceOf,
    private readonly sums: Sums,
    private readonly overhearing: Overhearing | null,
    private readonly keys: KeyTaps,
    private readonly heardBy: StripEars | null = null,
  ) {
    this.runners = new StripRunners(rateHz, overhearing !== null, keys);
    this.gateFrames = Math.round(GATE_SECONDS * rateHz);
    this.gateStep = 1 / this.gateFrames;
    this.patienceFrames = Math.round(PATIENCE_SECONDS * rateHz);
  }

  /**
   * @param bound ids of those that {@link runBound} runs
   * @param immediately true where nothing is heard
   */
  set(
    tracks: readonly CompiledTrack[],
    timing: StripTiming,
    kernels: Kernels,
    immediately: boolean,
    bound: ReadonlySet<string> = NONE,
  ): void {
    this.plans = tracks;
    this.isBound = tracks.map(({ id }) => bound.has(id));
    this.numbers = new Map(tracks.map(({ id }, i) => [id, i]));
    this.heard = tracks.map(isHeard);
    this.runners.set(tracks, timing, kernels, immediately);
    this.refresh(immediately);
    if (this.overhearing) return;
    this.ears = tracks.map(
      ({ id }, i) => this.heardBy?.of(id, timing.places[i].leaves + timing.waits[i].output) ?? null,
    );
    for (const chunk of this.chunks) chunk?.release();
    this.chunks = this.sources.map((source) => (source?.readFloats ? new Chunk(source.channels) : undefined));
    this.ways = this.runners.all.map((runner, i) => {
      const isReady = this.sources[i] ? this.chunks[i]?.isInKernel : true;
      return isReady ? runner.straightWay(this.ears[i]?.sum ?? sumOf(this.sums, runner.plan.output)) : null;
    });
  }

  /** Looks up the samples of the tracks, and who overhears them, again. */
  refresh(immediately = false): void {
    this.sources = this.plans.map((track) => {
      const source = this.sourceOf(track);
      const isFixed = !this.overhearing && track.delayFrames !== 0;
      return source && isFixed ? new ShiftedSource(source, track.delayFrames) : source;
    });
    if (this.overhearing) {
      const read = this.plans.flatMap((track, i): [string, Read][] => {
        const source = this.sources[i];
        return source ? [[track.id, this.shiftOf(track, source, immediately)]] : [];
      });
      this.read = new Map(read);
      this.shifts = this.plans.map(({ id }) => this.read.get(id)?.shift);
    }
    // A track that comes in later is let in when its samples are there; that they are still on their way is not late.
    const shut = this.gates.size > 0;
    const gateOf = (id: string) => this.gates.get(id) ?? { value: shut ? 0 : 1, isOpen: !shut, isVain: false };
    this.gates = new Map(this.plans.map(({ id }) => [id, gateOf(id)]));
    this.gatesInOrder = [...this.gates.values()];
    this.taps = this.plans.map(({ id }) => this.overhearing?.tapOf(id));
  }

  /** How a track is read that has a delay, or had one; undefined for those that are read as they are. */
  private shiftOf({ id, delayFrames }: CompiledTrack, source: SampleSource, immediately: boolean): Read {
    const before = this.read.get(id);
    const wasRead = before?.source === source;
    const kept = wasRead ? before.shift : undefined;
    if (delayFrames === 0 && (!kept || kept.isPlain)) return { source };
    const shift = kept ?? new MovableShift(source, wasRead ? 0 : delayFrames, this.rateHz);
    shift.moveTo(delayFrames, immediately);
    return { source, shift };
  }

  /** See `Engine.isThere`. */
  isThere(frame: number, frames: number): boolean {
    for (let i = 0; i < this.sources.length; i++)
      if (!this.gatesInOrder[i].isVain && this.isMissing(i, frame, frames)) return false;
    return true;
  }

  /** See `Engine.endWait`. */
  endWait(frame: number, frames: number): void {
    for (let i = 0; i < this.sources.length; i++)
      if (this.isMissing(i, frame, frames)) this.gatesInOrder[i].isVain = true;
  }

  private isMissing(i: number, frame: number, frames: number): boolean {
    const source = this.shifts[i] ?? this.sources[i];
    return this.heard[i] && source?.has !== undefined && !source.has(frame, frames);
  }

  /** See `Engine.jump`. */
  jump(frame: number): void {
    this.runners.follow(frame, true);
    for (const gate of this.gatesInOrder) {
      gate.isOpen = true;
      gate.value = 1;
    }
    this.patience = this.patienceFrames;
  }

  process(frame: number, frames: number, reader: Reader = PLAIN_READER): void {
    this.runners.follow(frame, false);
    this.isLate = false;
    this.frame = frame;
    this.frames = frames;
    this.reader = reader;
    for (let i = 0; i < this.runners.all.length; i++) {
      if (this.isBound[i]) continue;
      const straight = this.ways[i];
      const source = this.sources[i];
      const ear = this.ears[i];
      ear?.sum.clear(frames);
      if (straight && source) this.runStraight(straight, this.chunks[i]!, source as FloatSource, frame, frames);
      else if (!straight || source) this.run(i, source, frame, frames, reader);
      ear?.handOn(sumOf(this.sums, this.plans[i].output), frame, frames);
    }
    if (this.isLate) this.lateCount++;
    this.patience = Math.max(0, this.patience - frames);
    recover(this.sums, frames, this.runners);
  }

  /** Runs a track that has to wait for others, after {@link process}, for the same frames. */
  runBound(trackId: string): void {
    const i = this.numbers.get(trackId)!;
    const wasLate = this.isLate;
    const ear = this.ears[i];
    ear?.sum.clear(this.frames);
    this.run(i, this.sources[i], this.frame, this.frames, this.reader);
    ear?.handOn(sumOf(this.sums, this.plans[i].output), this.frame, this.frames);
    if (this.isLate && !wasLate) this.lateCount++;
  }

  /** Where samples are missing soon, what is there still fades out before; they fade in when they have arrived. */
  private passGate(i: number, source: SampleSource, frame: number, frames: number): void {
    const gate = this.gatesInOrder[i];
    const isThere = (this.shifts[i] ?? source).has!(frame, frames + (gate.isOpen ? this.gateFrames : AHEAD_FRAMES));
    if (isThere) {
      gate.isOpen = true;
      gate.isVain = false;
    } else if (gate.isOpen && this.patience === 0) {
      gate.isOpen = false;
      if (this.heard[i]) this.isLate = true;
    }
    if (isThere && gate.value === 1) return;
    const { left, right } = this.kernel;
    const step = isThere ? this.gateStep : -this.gateStep;
    let { value } = gate;
    for (let n = 0; n < frames; n++) {
      value = Math.min(1, Math.max(0, value + step));
      left[n] *= value;
      if (source.channels === 2) right[n] *= value;
    }
    gate.value = value;
  }

  private run(i: number, source: SampleSource | undefined, frame: number, frames: number, reader: Reader): void {
    const { overhearing } = this;
    const { left, right } = this.kernel;
    const runner = this.runners.all[i];
    const stereo = source?.channels === 2;
    const shift = this.shifts[i];
    if (shift) shift.read(reader, frame, frames, left, right);
    else if (source) reader.read(source, frame, frames, left, right);
    else left.fill(0, 0, frames);
    if (source?.has && overhearing) this.passGate(i, source, frame, frames);
    runner.inputLine?.process(left, stereo ? right : null, frames);
    const tap = this.taps[i];
    if (tap?.before) overhearing!.writeTap(tap.before, left, stereo ? right : null, frames);
    const other = stereo || runner.chain.opens ? right : null;
    runner.runChain(left, other, frames, this.keys, !stereo);
    if (tap) overhearing!.writeTap(tap.after, left, other, frames);
    runner.mix(left, other ?? left, frames, this.sums, overhearing, this.ears[i]?.sum);
  }

  /** What is shut is not run at all, nor is silence once it has rung out: nothing comes of either. */
  private runStraight(straight: StraightWay, chunk: Chunk, source: FloatSource, frame: number, frames: number): void {
    const { kernel } = this;
    const { cascades, leftFactor, rightFactor, to } = straight;
    if (leftFactor === 0 && rightFactor === 0) return;
    const at = chunk.bring(source, frame, frames);
    const isSilent = !kernel.loadPlanar(chunk.left, chunk.right, at, frames);
    if (isSilent && cascades.every((cascade) => cascade.ringOut())) return;
    for (let n = 0; n < cascades.length; n++) cascades[n].processLanes(frames);
    kernel.mix(to.left, to.right, leftFactor, rightFactor, frames);
  }

  /** Gives back what it holds: it must not be used again. */
  release(): void {
    this.runners.release();
    for (const chunk of this.chunks) chunk?.release();
  }
}

type FloatSource = SampleSource & Required<Pick<SampleSource, 'readFloats'>>;

/** Frames that are taken from a source at a time. */
const CHUNK_FRAMES = 4096;
const FLOATS_PER_SECTION = 2 * SECTION_STRIDE;

/** The next samples of a source, in the kernel's memory. */
class Chunk {
  readonly left: Float32Array;
  /** The same as `left` for mono. */
  readonly right: Float32Array;
  private readonly sides: Float32Array[];
  private readonly memory: SectionMemory;
  private readonly kernel: Kernel;
  private from = 0;
  private held = 0;

  constructor(channels: 1 | 2) {
    const sections = (channels * CHUNK_FRAMES) / FLOATS_PER_SECTION;
    ({ kernel: this.kernel, memory: this.memory } = roomFor(sections, threadKernel()));
    const { buffer, byteOffset } = this.memory.numbers;
    const side = (number: number) => new Float32Array(buffer, byteOffset + 4 * number * CHUNK_FRAMES, CHUNK_FRAMES);
    this.left = side(0);
    this.right = channels === 2 ? side(1) : this.left;
    this.sides = [this.left, this.right];
  }

  /** True where this thread's kernel can take them from here. */
  get isInKernel(): boolean {
    return this.kernel === threadKernel();
  }

  /** Sees to it that some frames are here. @returns where they begin */
  bring(source: FloatSource, frame: number, frames: number): number {
    if (frame < this.from || frame + frames > this.from + this.held) {
      source.readFloats(frame, CHUNK_FRAMES, this.sides);
      this.from = frame;
      this.held = CHUNK_FRAMES;
    }
    return frame - this.from;
  }

  release(): void {
    this.kernel.release(this.memory);
  }
}
