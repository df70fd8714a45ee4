import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Reverb } from '../song';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { reverbMemory } from './kernel/kernel';
import { fromDb, framesOf } from './levels';
import { RangeFilter } from './range-filter';
import { LINES, numberAt, RUN, type CompiledLines, type NUMBERS, type ReverbMemory } from './reverb-memory';
import type { ProcessorRunner } from './runner';

/** Mean length of the lines, from the smallest size to the largest, and how they lie about it. */
const MEAN_MS = { smallest: 11, largest: 62 };
const SPREAD = { shortest: 0.55, longest: 1.6 };
/** Some lines move, so that no tone stands still in the tail. */
const MOVING = 4;
const MOVES = { frames: 5, hz: [0.31, 0.43, 0.57, 0.71] };
/** Frames between the places at which the length of a line that moves is worked out. */
const PIECE = 64;
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
/** So that the mix of all lines neither gains nor loses. */
const MIX_GAIN = 1 / Math.sqrt(LINES);
/** Signs with which each line is fed and heard, so that sides have little in common. */
const SIGNS = [1, -1, 1, 1, -1, 1, -1, -1, 1, 1, -1, 1, -1, -1, 1, -1];

function isPrime(n: number): boolean {
  for (let d = 2; d * d <= n; d++) if (n % d === 0) return false;
  return n > 1;
}

/** Lengths of the lines, frames: primes, so that their echoes do not meet; always the same for a size. */
export function lineLengths(sizePercent: number, rateHz: number): number[] {
  const mean = MEAN_MS.smallest * (MEAN_MS.largest / MEAN_MS.smallest) ** (sizePercent / 100);
  const lengths: number[] = [];
  for (let i = 0; i < LINES; i++) {
    const place = SPREAD.shortest * (SPREAD.longest / SPREAD.shortest) ** (i / (LINES - 1));
    let length = Math.round((mean * place * rateHz) / 1000);
    while (!isPrime(length) || lengths.includes(length)) length++;
    lengths.push(Math.max(length, RUN + MOVES.frames + 3));
  }
  return lengths;
}

/** What is left of a sound after it went once through a line, at the three ranges of frequency. */
function gainsOf({ decaySeconds, lowRatio, highRatio }: Reverb, seconds: number) {
  const after = (decay: number) => 10 ** ((-3 * seconds) / decay);
  return { middle: after(decaySeconds), low: after(decaySeconds * lowRatio), high: after(decaySeconds * highRatio) };
}

/**
 * How long the reverb takes to fall by 60 dB at a frequency, seconds: what its filters do, not only what they were asked for.
 * The decay of each line by a filter: J.-M. Jot and A. Chaigne, "Digital delay networks for designing artificial reverberators", AES 90 (1991).
 */
export function decayAt(settings: Reverb, hz: number, rateHz = 48000): number {
  const lengths = lineLengths(settings.sizePercent, rateHz);
  const seconds = lengths.reduce((sum, length) => sum + length, 0) / LINES / rateHz;
  const { middle, low, high } = gainsOf(settings, seconds);
  const w = (2 * Math.PI * hz) / rateHz;
  /** A one-pole low-pass at a corner, as {@link Line} runs it. */
  const pole = (corner: number) => {
    const a = followOf(corner, rateHz);
    const [re, im] = [1 - (1 - a) * Math.cos(w), (1 - a) * Math.sin(w)];
    const size = re * re + im * im;
    return { re: (a * re) / size, im: (-a * im) / size };
  };
  const below = pole(settings.lowHz);
  const notAbove = pole(settings.highHz);
  const re = middle + (low - middle) * below.re + (high - middle) * (1 - notAbove.re);
  const im = (low - middle) * below.im - (high - middle) * notAbove.im;
  return (-3 * seconds) / Math.log10(Math.hypot(re, im));
}

const followOf = (hz: number, rateHz: number) => 1 - Math.exp((-2 * Math.PI * Math.min(hz, 0.45 * rateHz)) / rateHz);

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

/** Samples that the past of a line has room for. */
const roomOf = (length: number) => 2 ** Math.ceil(Math.log2(length + RUN + MOVES.frames + 4));

/** One line with the filter that decides how long it rings. */
class Line {
  private readonly past: Float64Array;
  private readonly mask: number;
  private readonly numbers: Float64Array;
  private readonly phase: number;
  private middle = 0;
  private low = 0;
  private high = 0;
  private followLow = 0;
  private followHigh = 0;
  /** The settings that its gains stand for. */
  private reached: Reverb | null = null;

  /** @param hz how often its length goes up and down in a second; null for one that stays */
  constructor(
    private readonly length: number,
    private readonly rateHz: number,
    private readonly hz: number | null,
    private readonly index: number,
    { numbers, pasts }: ReverbMemory,
  ) {
    this.past = pasts[index];
    this.mask = this.past.length - 1;
    this.numbers = numbers;
    this.phase = (2 * Math.PI * index) / LINES;
    this.put('heard', SIGNS[index]);
    // Another order of signs than at the output.
    this.put('fed', MIX_GAIN * SIGNS[(index + 5) % LINES]);
  }

  private put(name: keyof typeof NUMBERS, value: number): void {
    this.numbers[numberAt(this.index, name)] = value;
  }

  private get lowPole(): number {
    return this.numbers[numberAt(this.index, 'lowPole')];
  }

  private get highPole(): number {
    return this.numbers[numberAt(this.index, 'highPole')];
  }

  private setPoles(low: number, high: number): void {
    this.put('lowPole', low);
    this.put('highPole', high);
  }

  jumpTo(settings: Reverb): void {
    ({ middle: this.middle, low: this.low, high: this.high } = gainsOf(settings, this.length / this.rateHz));
    this.aim(settings);
    this.arrive(settings);
  }

  /** Lays out what holds at its settings. */
  private arrive(settings: Reverb): void {
    this.reached = settings;
    this.put('both', this.middle + (this.high - this.middle));
    this.put('low', this.low - this.middle);
    this.put('high', this.high - this.middle);
    this.put('keptLow', 1 - this.followLow);
    this.put('followLow', this.followLow);
    this.put('keptHigh', 1 - this.followHigh);
    this.put('followHigh', this.followHigh);
  }

  hasReached(settings: Reverb): boolean {
    return this.reached === settings;
  }

  /**
   * What comes out of it now, its share taken, and what is heard of it: its gains go straight to those that are wanted.
   * @param sum what is heard, to which it is added as often as `sign` says
   */
  read(out: Float64Array, at: number, frames: number, settings: Reverb, sum: Float64Array, sign: number): void {
    if (this.hz === null && settings === this.reached) {
      const begin = (at - this.length) & this.mask;
      const straight = Math.min(frames, this.past.length - begin);
      this.rest(this.past, begin, out, 0, straight, sum, sign);
      if (straight < frames) this.rest(this.past, 0, out, straight, frames - straight, sum, sign);
      return;
    }
    if (this.hz === null) this.readStill(out, at, frames);
    else this.readMoving(out, at, frames);
    if (settings === this.reached) this.rest(out, 0, out, 0, frames, sum, sign);
    else {
      this.move(out, frames, settings);
      addTo(sum, out, sign, frames);
    }
  }

  private readStill(out: Float64Array, at: number, frames: number): void {
    const { past, mask } = this;
    const begin = (at - this.length) & mask;
    const straight = Math.min(frames, past.length - begin);
    for (let n = 0; n < straight; n++) out[n] = past[begin + n];
    for (let n = straight; n < frames; n++) out[n] = past[n - straight];
  }

  /** The filter, its gains as they stand; and what is heard of it. */
  private rest(
    from: Float64Array,
    begin: number,
    out: Float64Array,
    to: number,
    frames: number,
    sum: Float64Array,
    sign: number,
  ): void {
    const { middle, followLow, followHigh } = this;
    const low = this.low - middle;
    const high = this.high - middle;
    const both = middle + high;
    const keptLow = 1 - followLow;
    const keptHigh = 1 - followHigh;
    let { lowPole, highPole } = this;
    for (let n = 0; n < frames; n++) {
      const x = from[begin + n];
      lowPole = keptLow * lowPole + followLow * x;
      highPole = keptHigh * highPole + followHigh * x;
      const y = both * x + low * lowPole - high * highPole;
      out[to + n] = y;
      sum[to + n] += sign * y;
    }
    this.setPoles(lowPole, highPole);
  }

  /** The filter, its gains on their way to those of new settings. */
  private move(out: Float64Array, frames: number, settings: Reverb): void {
    const goal = gainsOf(settings, this.length / this.rateHz);
    this.aim(settings);
    const { followLow, followHigh } = this;
    const middleStep = (goal.middle - this.middle) / frames;
    const lowStep = (goal.low - goal.middle - (this.low - this.middle)) / frames;
    const highStep = (goal.high - goal.middle - (this.high - this.middle)) / frames;
    let { middle, lowPole, highPole } = this;
    let low = this.low - middle;
    let high = this.high - middle;
    for (let n = 0; n < frames; n++) {
      const x = out[n];
      lowPole += followLow * (x - lowPole);
      highPole += followHigh * (x - highPole);
      out[n] = middle * x + low * lowPole + high * (x - highPole);
      middle += middleStep;
      low += lowStep;
      high += highStep;
    }
    this.setPoles(lowPole, highPole);
    this.middle = goal.middle;
    this.low = goal.low;
    this.high = goal.high;
    this.arrive(settings);
  }

  private aim({ lowHz, highHz }: Reverb): void {
    this.followLow = followOf(lowHz, this.rateHz);
    this.followHigh = followOf(highHz, this.rateHz);
  }

  /** Its length goes up and down, in straight pieces; cubic Lagrange between four frames. */
  private readMoving(out: Float64Array, at: number, frames: number): void {
    const { past, mask } = this;
    for (let n = 0; n < frames;) {
      // The pieces lie at the same places of the song, however it is cut into blocks.
      const piece = Math.floor((at + n) / PIECE);
      const end = Math.min(frames, (piece + 1) * PIECE - at);
      const from = this.lengthAt(piece * PIECE);
      const slope = (this.lengthAt((piece + 1) * PIECE) - from) / PIECE;
      for (; n < end; n++) {
        const back = from + slope * (at + n - piece * PIECE);
        const whole = Math.floor(back);
        const f = back - whole;
        const place = at + n - whole;
        const b = past[place & mask];
        const c = past[(place - 1) & mask];
        const up = (f + 1) * f;
        const down = (f - 1) * (f - 2);
        out[n] =
          (past[(place - 2) & mask] * up * (f - 1) - past[(place + 1) & mask] * f * down) / 6 +
          (b * (f + 1) * down - c * up * (f - 2)) / 2;
      }
    }
  }

  /** How late it comes out, one that moves, at a frame since the beginning. */
  lengthAt(frame: number): number {
    return this.length + MOVES.frames * Math.sin(this.phase + (frame * 2 * Math.PI * this.hz!) / this.rateHz);
  }

  /** Keeps its share of the mix, and of what comes in, for later. */
  write(samples: Float64Array, input: Float64Array, at: number, frames: number): void {
    const { past, mask } = this;
    const own = MIX_GAIN;
    const gain = this.numbers[numberAt(this.index, 'fed')];
    const begin = at & mask;
    const straight = Math.min(frames, past.length - begin);
    for (let n = 0; n < straight; n++) past[begin + n] = own * samples[n] + gain * input[n];
    for (let n = straight; n < frames; n++) past[n - straight] = own * samples[n] + gain * input[n];
  }

  reset(): void {
    this.past.fill(0);
    this.setPoles(0, 0);
  }

  get isSound(): boolean {
    return Number.isFinite(this.lowPole + this.highPole);
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

function addTo(sum: Float64Array, samples: Float64Array, gain: number, frames: number): void {
  for (let n = 0; n < frames; n++) sum[n] += gain * samples[n];
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
      const one = left[from + n];
      const other = right ? right[from + n] : one;
      fed[0][n] = one;
      fed[1][n] = other;
      if (one !== 0 || other !== 0) isSilent = false;
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

  /** One step of the network. @returns true in silence, where nothing in it will be heard any more */
  private runNetwork(frames: number, isSilent: boolean): boolean {
    const { lines, settings, memory } = this;
    const { compiled } = memory;
    const hasEnded =
      compiled && lines.every((line) => line.hasReached(settings))
        ? this.runCompiled(compiled, frames)
        : this.runLines(frames, isSilent);
    this.at += frames;
    return isSilent && hasEnded;
  }

  /** What comes in goes through the all-passes, where it lies and where the compiled loop has it. */
  private scatterInput(frames: number): void {
    const { compiled } = this.memory;
    const [left, right] = fed;
    if (!compiled) {
      this.scatter.forEach((all, side) => all.forEach((scatter) => scatter.process(fed[side], frames)));
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
