import { kaiser, sineCardinal } from '../filters/kaiser';
import { HELD_SAMPLES, measureKernel, type PeakFinder } from './kernel/kernel';
import { FLOOR_DB } from './spectrum';
import { toDb } from './levels';

/** How many values are looked at between two samples, and how many samples take part in each. */
const OVERSAMPLING = 4;
export const TRUE_PEAK_TAPS = 24;
const TAPS = TRUE_PEAK_TAPS;
const HALF = TAPS / 2;
const KAISER_BETA = 7;

const isTyped = (samples: ArrayLike<number>): samples is Float64Array | Float32Array => ArrayBuffer.isView(samples);

/** A windowed sinc for each place between two samples. */
export const TRUE_PEAK_PHASES: readonly Float64Array[] = Array.from({ length: OVERSAMPLING - 1 }, (_, phase) => {
  const shift = (phase + 1) / OVERSAMPLING;
  const taps = Float64Array.from({ length: TAPS }, (__, n) => {
    const x = n - (HALF - 1) - shift;
    return sineCardinal(x) * kaiser(x / HALF, KAISER_BETA);
  });
  const sum = taps.reduce((all, tap) => all + tap, 0);
  return taps.map((tap) => tap / sum);
});
const PHASES = TRUE_PEAK_PHASES;
const MIDDLE = PHASES[OVERSAMPLING / 2 - 1];
const BESIDE = PHASES.filter((taps) => taps !== MIDDLE);
/** No value between samples is larger than the largest of those that take part in it, times this. */
const MOST_GAIN = MIDDLE.reduce((sum, tap) => sum + Math.abs(tap), 0);

/**
 * How far a value between two samples may lie beyond them: what the taps add to a straight line is a sum of the bends x₋₁ − 2x + x₊₁ of those that take
 * part, by the taps' differences from the line summed up twice; and a share of the slope, since the taps meet a slope not quite.
 */
function straying(taps: Float64Array, shift: number): { bend: number; slope: number } {
  const beyondLine = taps.map((tap, n) => tap - (n === HALF - 1 ? 1 - shift : n === HALF ? shift : 0));
  const slope = beyondLine.reduce((sum, tap, n) => sum + tap * n, 0);
  beyondLine[HALF - 1] += slope;
  beyondLine[HALF] -= slope;
  let [once, twice, bend] = [0, 0, 0];
  for (const tap of beyondLine) {
    once += tap;
    twice += once;
    bend += Math.abs(twice);
  }
  return { bend, slope: Math.abs(slope) };
}
const STRAYING = PHASES.map((taps, phase) => straying(taps, (phase + 1) / OVERSAMPLING));
/** Rounding is less than this by far. */
const SAFE = 1 + 1e-9;
/** The slope between two samples is at most twice the larger. */
const REACH = SAFE * (1 + 2 * Math.max(...STRAYING.map(({ slope }) => slope)));
const BEND = SAFE * Math.max(...STRAYING.map(({ bend }) => bend));
/**
 * Beside the middle of two samples nothing is looked for where neither it nor they reach this share of the peak so far: of a signal that is
 * sampled twice as often as need be the peak is at most 1/cos(π/4) of the largest sample (H. Ehlich, K. Zeller, Math. Zeitschrift 86, 1964).
 */
const WORTH_A_LOOK = Math.SQRT1_2;
/** Samples that are skipped or looked at together. */
const RUN = 8;

/** Size of what lies between samples: every fourth tap apart, as the compiled kernel adds them. */
function valueAt(held: Float64Array, at: number, taps: Float64Array): number {
  let [first, second, third, fourth] = [0, 0, 0, 0];
  for (let i = 0; i < TAPS; i += 4) {
    first += taps[i] * held[at + i];
    second += taps[i + 1] * held[at + i + 1];
    third += taps[i + 2] * held[at + i + 2];
    fourth += taps[i + 3] * held[at + i + 3];
  }
  return Math.abs(first + third + (second + fourth));
}

/** Looks between samples without the compiled kernel: its reference. */
export function plainPeakFinder(): PeakFinder {
  const held = new Float64Array(HELD_SAMPLES);
  /** The peak so far, and what lies between the two samples in the middle of the taps from a place on. */
  const between = (at: number, peak: number): number => {
    const middle = valueAt(held, at, MIDDLE);
    let most = middle > peak ? middle : peak;
    const worth = WORTH_A_LOOK * most;
    if (middle < worth && Math.abs(held[at + HALF - 1]) < worth && Math.abs(held[at + HALF]) < worth) return most;
    for (const taps of BESIDE) most = Math.max(most, valueAt(held, at, taps));
    return most;
  };
  const find = (filled: number, peak: number) => {
    for (let n = TAPS - 1; n < filled; n++) peak = Math.max(peak, Math.abs(held[n]));
    for (let at = 0; at + TAPS <= filled; at += RUN) {
      const end = Math.min(filled, at + RUN + TAPS - 1);
      let largest = 0;
      for (let n = at; n < end; n++) largest = Math.max(largest, Math.abs(held[n]));
      if (largest * MOST_GAIN > peak) for (let n = at; n + TAPS <= end; n++) peak = between(n, peak);
    }
    return peak;
  };
  return { held, find };
}

let ofThisThread: PeakFinder | undefined;
const threadPeakFinder = () =>
  (ofThisThread ??=
    measureKernel()?.peakFinder(
      Float64Array.from([MIDDLE, ...BESIDE].flatMap((taps) => [...taps])),
      SAFE * MOST_GAIN,
      REACH,
      BEND,
      WORTH_A_LOOK,
    ) ?? plainPeakFinder());

/** One channel of {@link TruePeakMeter}. */
class ChannelPeak {
  peak = 0;
  /** The last samples, whose neighbours are still to come. */
  private readonly last = new Float64Array(TAPS - 1);

  constructor(private readonly finder: PeakFinder) {}

  push(samples: ArrayLike<number>): void {
    const { held } = this.finder;
    for (let at = 0; at < samples.length;) {
      const run = Math.min(samples.length - at, HELD_SAMPLES - this.last.length);
      held.set(this.last);
      if (isTyped(samples)) held.set(samples.subarray(at, at + run), this.last.length);
      else for (let n = 0; n < run; n++) held[this.last.length + n] = samples[at + n];
      this.peak = this.finder.find(this.last.length + run, this.peak);
      this.last.set(held.subarray(run, run + this.last.length));
      at += run;
    }
  }

  /** Takes what is left, and the silence after it. */
  flush(): void {
    this.push(new Float64Array(HALF));
  }
}

/**
 * True peak: the greatest absolute value of a signal between its samples too, by fourfold oversampling with 24 taps a phase.
 * Source: ITU-R BS.1770-4, annex 2 (which asks for at least fourfold).
 */
export class TruePeakMeter {
  private readonly channels: ChannelPeak[];

  /** @param finder what looks between the samples; the fastest that this thread has */
  constructor(channels: number, finder: PeakFinder = threadPeakFinder()) {
    this.channels = Array.from({ length: channels }, () => new ChannelPeak(finder));
  }

  /** @param samples one array per channel */
  push(samples: readonly ArrayLike<number>[]): void {
    this.channels.forEach((channel, c) => channel.push(samples[c]));
  }

  /** Looks at the last samples too: nothing may be pushed afterwards. @returns dBTP; {@link FLOOR_DB} for silence */
  finish(): number {
    for (const channel of this.channels) channel.flush();
    return this.truePeakDb;
  }

  /** What has been seen so far, dBTP. */
  get truePeakDb(): number {
    const peak = this.channels.reduce((most, channel) => Math.max(most, channel.peak), 0);
    return peak === 0 ? FLOOR_DB : toDb(peak);
  }
}
