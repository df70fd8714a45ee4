import type { Reverb } from '../song';
import { LINES, numberAt, RUN, type NUMBERS, type ReverbMemory } from './reverb-memory';

/** Mean length of the lines, from the smallest size to the largest, and how they lie about it. */
const MEAN_MS = { smallest: 11, largest: 62 };
const SPREAD = { shortest: 0.55, longest: 1.6 };
/** Some lines move, so that no tone stands still in the tail. */
export const MOVING = 4;
export const MOVES = { frames: 5, hz: [0.31, 0.43, 0.57, 0.71] };
/** Frames between the places at which the length of a line that moves is worked out. */
export const PIECE = 64;
/** So that the mix of all lines neither gains nor loses. */
export const MIX_GAIN = 1 / Math.sqrt(LINES);
/** Signs with which each line is fed and heard, so that sides have little in common. */
export const SIGNS = [1, -1, 1, 1, -1, 1, -1, -1, 1, 1, -1, 1, -1, -1, 1, -1];

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
export function gainsOf({ decaySeconds, lowRatio, highRatio }: Reverb, seconds: number) {
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

/** Samples that the past of a line has room for. */
export const roomOf = (length: number) => 2 ** Math.ceil(Math.log2(length + RUN + MOVES.frames + 4));

/** One line with the filter that decides how long it rings. */
export class Line {
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

function addTo(sum: Float64Array, samples: Float64Array, gain: number, frames: number): void {
  for (let n = 0; n < frames; n++) sum[n] += gain * samples[n];
}
