import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Reverb } from '../song';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { reverbMemory } from './kernel/kernel';
import { fromDb, framesOf } from './levels';
import { RangeFilter } from './range-filter';
import { gainsOf, Line, lineLengths, MIX_GAIN, MOVES, MOVING, PIECE, roomOf, SIGNS } from './reverb-line';
import { LINES, RUN, type CompiledLines, type ReverbMemory } from './reverb-memory';
import type { ProcessorRunner } from './runner';

/** All-passes before the lines, ms on each side; the density is how much they scatter. */
const SCATTER_MS = [
  [3.1, 4.7, 7.3, 10.9],
  [3.7, 5.3, 6.7, 11.9],
];
const MOST_SCATTER = 0.72;
/** Half of the lines are heard on each side, with what they were fed from both: measured with noise. */
const HEARD_GAIN = 2;
/** What is under way in the all-passes comes out within this, beside the longest line. */
const QUIET_AFTER_MS = 60;
/** −200 dB: what is softer has ended. */
const ENDED = 1e-10;

/** An all-pass of Schroeder. */
class Scatter {
  private readonly past: Float64Array;
  private at = 0;

  constructor(
    frames: number,
    private readonly amount: number,
  ) {
    this.past = new Float64Array(frames);
  }

  process(samples: Float64Array, frames: number): void {
    const { past, amount } = this;
    let { at } = this;
    for (let n = 0; n < frames; n++) {
      const delayed = past[at];
      const inside = samples[n] + amount * delayed;
      past[at] = inside;
      samples[n] = delayed - amount * inside;
      if (++at === past.length) at = 0;
    }
    this.at = at;
  }

  reset(): void {
    this.past.fill(0);
  }
}

const wets = new Float64Array(MAX_BLOCK);
const dries = new Float64Array(MAX_BLOCK);
const widths = new Float64Array(MAX_BLOCK);
const run = () => new Float64Array(RUN);
const lanes = Array.from({ length: LINES }, run);
const fed = [run(), run()];
const out = [run(), run()];

/** Mixes all lines with each other without loss: a Hadamard matrix over the root of its size, two of its steps at a time. */
function mixLines(frames: number): void {
  for (let apart = 1; apart < LINES; apart *= 4)
    for (let i = 0; i < LINES; i += 4 * apart)
      for (let j = i; j < i + apart; j++)
        butterflies(lanes[j], lanes[j + apart], lanes[j + 2 * apart], lanes[j + 3 * apart], frames);
}

function butterflies(a: Float64Array, b: Float64Array, c: Float64Array, d: Float64Array, frames: number): void {
  for (let n = 0; n < frames; n++) {
    const ab = a[n] + b[n];
    const aNotB = a[n] - b[n];
    const cd = c[n] + d[n];
    const cNotD = c[n] - d[n];
    a[n] = ab + cd;
    b[n] = aNotB + cNotD;
    c[n] = ab - cd;
    d[n] = aNotB - cNotD;
  }
}

function separate(pairs: Float64Array, [left, right]: Float64Array[], frames: number): void {
  for (let n = 0; n < frames; n++) {
    left[n] = pairs[2 * n];
    right[n] = pairs[2 * n + 1];
  }
}

/** True where nothing in the lines is loud enough to be heard ever again. */
function haveEnded(frames: number): boolean {
  for (const lane of lanes) for (let n = 0; n < frames; n++) if (Math.abs(lane[n]) > ENDED) return false;
  return true;
}

/**
 * A room: a delay network of sixteen lines that a lossless matrix leads back into each other, after all-passes that scatter what comes in.
 * The same sound gives the same room: it begins anew with every {@link reset}.
 */
export class ReverbRunner implements ProcessorRunner<Reverb> {
  readonly latencyFrames = 0;
  readonly warmUpFrames: number;
  readonly gainDb = 0;
  private readonly memory: ReverbMemory;
  private readonly lines: Line[];
  private readonly moving: Line[];
  /** None where the compiled loop has its own. */
  private readonly scatter: Scatter[][];
  private readonly scatterAmount: number;
  private readonly before: DelayLine | null;
  private readonly wet: EasedValue;
  private readonly dry: EasedValue;
  private readonly width: EasedValue;
  private readonly filter: RangeFilter;
  private readonly structure: string;
  private settings: Reverb;
  private at = 0;
  /** Since nothing went in and nothing came out of a line. */
  private quietFrames = Infinity;
  private readonly longest: number;

  /** @param memoryOf where it works: the compiled loop's memory, or plain */
  constructor(
    settings: Reverb,
    private readonly rateHz: number,
    memoryOf: typeof reverbMemory = reverbMemory,
  ) {
    this.settings = settings;
    this.structure = this.structureOf(settings);
    this.warmUpFrames = framesOf(200, rateHz);
    const lengths = lineLengths(settings.sizePercent, rateHz);
    this.longest = Math.max(...lengths) + framesOf(QUIET_AFTER_MS, rateHz);
    const scatterFrames = SCATTER_MS.map((side) => side.map((ms) => framesOf(ms, rateHz)));
    this.scatterAmount = (MOST_SCATTER * settings.densityPercent) / 100;
    this.memory = memoryOf(
      lengths.map((length) => ({ room: roomOf(length), lateFrames: length })),
      scatterFrames[0].flatMap((frames, step) => [frames, scatterFrames[1][step]]),
    );
    const moves = (i: number) => i % (LINES / MOVING) === 1;
    this.lines = lengths.map(
      (length, i) =>
        new Line(length, rateHz, moves(i) ? MOVES.hz[Math.floor((i * MOVING) / LINES)] : null, i, this.memory),
    );
    this.moving = this.lines.filter((_, i) => moves(i));
    this.scatter = this.memory.compiled
      ? []
      : scatterFrames.map((side) => side.map((frames) => new Scatter(frames, this.scatterAmount)));
    const preDelay = framesOf(settings.preDelayMs, rateHz);
    this.before = preDelay > 0 ? new DelayLine(preDelay) : null;
    this.wet = new EasedValue(this.wetGain(settings), rateHz);
    this.dry = new EasedValue(settings.dry ? 1 : 0, rateHz);
    this.width = new EasedValue(settings.widthPercent / 100, rateHz);
    this.filter = new RangeFilter(settings.range, rateHz);
    this.update(settings, true);
  }

  /** What cannot be moved while it rings. */
  private structureOf({ sizePercent, preDelayMs, densityPercent }: Reverb): string {
    return [sizePercent, densityPercent, framesOf(preDelayMs, this.rateHz)].join();
  }

  /** A sound that goes on is as loud in the room as without it, however long the room rings. */
  private wetGain(settings: Reverb): number {
    const lengths = lineLengths(settings.sizePercent, this.rateHz);
    const seconds = lengths.reduce((sum, length) => sum + length, 0) / LINES / this.rateHz;
    return fromDb(settings.wetDb) * Math.sqrt(1 - gainsOf(settings, seconds).middle ** 2) * HEARD_GAIN;
  }

  canBecome(settings: Reverb): boolean {
    return this.structureOf(settings) === this.structure && this.filter.canBecome(settings.range);
  }

  update(settings: Reverb, immediately: boolean): void {
    this.settings = settings;
    this.wet.set(this.wetGain(settings), immediately);
    this.dry.set(settings.dry ? 1 : 0, immediately);
    this.width.set(settings.widthPercent / 100, immediately);
    this.filter.set(settings.range, immediately);
    if (immediately) for (const line of this.lines) line.jumpTo(settings);
  }

  process(left: Float64Array, right: Float64Array | null, _l: Float64Array, _r: unknown, frames: number): void {
    this.wet.fill(wets, frames);
    this.dry.fill(dries, frames);
    this.width.fill(widths, frames);
    for (let at = 0; at < frames; at += RUN) this.runAt(left, right, at, Math.min(RUN, frames - at));
  }

  private runAt(left: Float64Array, right: Float64Array | null, from: number, frames: number): void {
    let isSilent = true;
    for (let n = 0; n < frames; n++) {
      const first = left[from + n];
      const second = right ? right[from + n] : first;
      fed[0][n] = first;
      fed[1][n] = second;
      if (first !== 0 || second !== 0) isSilent = false;
    }
    this.before?.process(fed[0], fed[1], frames);
    if (isSilent && this.isQuiet && this.isBlank(frames)) {
      for (let n = 0; n < frames; n++) left[from + n] *= dries[from + n];
      if (right) for (let n = 0; n < frames; n++) right[from + n] *= dries[from + n];
      // Its lines move on in silence too, so that it does not matter how what is silent is cut into blocks.
      this.at += frames;
      return;
    }
    this.scatterInput(frames);
    const hasEnded = this.runNetwork(frames, isSilent);
    for (let n = 0; n < frames; n++) {
      const place = from + n;
      const middle = (out[0][n] + out[1][n]) / 2;
      const half = (widths[place] * (out[0][n] - out[1][n])) / 2;
      if (right) {
        left[place] = dries[place] * left[place] + wets[place] * this.filter.next(0, middle + half);
        right[place] = dries[place] * right[place] + wets[place] * this.filter.next(1, middle - half);
      } else left[place] = dries[place] * left[place] + wets[place] * this.filter.next(0, Math.SQRT2 * middle);
    }
    this.quietFrames = hasEnded ? this.quietFrames + frames : 0;
    if (this.isQuiet) this.clear();
  }

  private get isQuiet(): boolean {
    return this.quietFrames > this.longest;
  }

  /** True where nothing comes out of the pre-delay. */
  private isBlank(frames: number): boolean {
    for (let n = 0; n < frames; n++) if (fed[0][n] !== 0 || fed[1][n] !== 0) return false;
    return true;
  }

  /** One step of the network; all lines reach new settings in the same one. @returns true in silence, where nothing in it will be heard any more */
  private runNetwork(frames: number, isSilent: boolean): boolean {
    const { lines, settings, memory } = this;
    const { compiled } = memory;
    const hasEnded =
      compiled && lines[0].hasReached(settings) ? this.runCompiled(compiled, frames) : this.runLines(frames, isSilent);
    this.at += frames;
    return isSilent && hasEnded;
  }

  /** What comes in goes through the all-passes, where it lies and where the compiled loop has it. */
  private scatterInput(frames: number): void {
    const { compiled } = this.memory;
    const [left, right] = fed;
    if (!compiled) {
      for (let side = 0; side < fed.length; side++)
        for (const scatter of this.scatter[side]) scatter.process(fed[side], frames);
      return;
    }
    const { fed: pairs } = compiled;
    for (let n = 0; n < frames; n++) {
      pairs[2 * n] = left[n];
      pairs[2 * n + 1] = right[n];
    }
    compiled.scatter(this.scatterAmount, frames);
  }

  private runLines(frames: number, isSilent: boolean): boolean {
    const { lines, settings, at } = this;
    const { compiled } = this.memory;
    if (compiled) separate(compiled.fed, fed, frames);
    out[0].fill(0);
    out[1].fill(0);
    for (let i = 0; i < LINES; i++) lines[i].read(lanes[i], at, frames, settings, out[i & 1], SIGNS[i]);
    mixLines(frames);
    for (let i = 0; i < LINES; i++) lines[i].write(lanes[i], fed[i & 1], at, frames);
    return isSilent && haveEnded(frames);
  }

  /** The compiled loop, along pieces in which the lines that move go straight. */
  private runCompiled(compiled: CompiledLines, frames: number): boolean {
    const { moving, at } = this;
    const { moves, out: heard } = compiled;
    let isLoud = false;
    for (let n = 0; n < frames;) {
      const piece = Math.floor((at + n) / PIECE);
      const end = Math.min(frames, (piece + 1) * PIECE - at);
      for (let i = 0; i < moving.length; i++) {
        const from = moving[i].lengthAt(piece * PIECE);
        moves[2 * i] = from;
        moves[2 * i + 1] = (moving[i].lengthAt((piece + 1) * PIECE) - from) / PIECE;
      }
      isLoud = compiled.run(n, end - n, at + n - piece * PIECE, at + n, ENDED, MIX_GAIN) || isLoud;
      n = end;
    }
    separate(heard, out, frames);
    return !isLoud;
  }

  private clear(): void {
    for (const line of this.lines) line.reset();
    for (const side of this.scatter) for (const scatter of side) scatter.reset();
    this.memory.compiled?.clearScatter();
    this.filter.reset();
  }

  reset(): void {
    this.clear();
    this.before?.reset();
    this.quietFrames = Infinity;
    this.at = 0;
  }

  release(): void {
    this.memory.compiled?.release();
  }

  get isSound(): boolean {
    return this.lines.every(({ isSound }) => isSound);
  }
}
