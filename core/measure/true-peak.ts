import { FLOOR_DB } from './spectrum';
import { toDb } from './levels';

/** How many values are looked at between two samples, and how many samples take part in each. */
const OVERSAMPLING = 4;
const TAPS = 24;
const HALF = TAPS / 2;
const KAISER_BETA = 7;

/** Modified Bessel function of the first kind, order 0. */
function besselI0(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A windowed sinc for each place between two samples. */
const PHASES = Array.from({ length: OVERSAMPLING - 1 }, (_, phase) => {
  const shift = (phase + 1) / OVERSAMPLING;
  const taps = Float64Array.from({ length: TAPS }, (__, n) => {
    const x = n - (HALF - 1) - shift;
    const window = besselI0(KAISER_BETA * Math.sqrt(1 - (x / HALF) ** 2)) / besselI0(KAISER_BETA);
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * window;
  });
  const sum = taps.reduce((all, tap) => all + tap, 0);
  return taps.map((tap) => tap / sum);
});
const MIDDLE = PHASES[OVERSAMPLING / 2 - 1];
const BESIDE = PHASES.filter((taps) => taps !== MIDDLE);
/** No value between samples is larger than the largest of those that take part in it, times this. */
const MOST_GAIN = MIDDLE.reduce((sum, tap) => sum + Math.abs(tap), 0);
/**
 * Beside the middle of two samples nothing is looked for where neither it nor they reach this share of the peak so far: of a signal that is
 * sampled twice as often as need be the peak is at most 1/cos(π/4) of the largest sample (H. Ehlich, K. Zeller, Math. Zeitschrift 86, 1964).
 */
const WORTH_A_LOOK = Math.SQRT1_2;
/** Samples that are skipped or looked at together. */
const RUN = 8;
const STRETCH = 128;

/** Size of what lies between samples. */
function valueAt(held: Float64Array, at: number, taps: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < TAPS; i++) sum += taps[i] * held[at + i];
  return sum < 0 ? -sum : sum;
}

/** One channel of {@link TruePeakMeter}: the samples that are still needed, then the new ones. */
class ChannelPeak {
  peak = 0;
  private readonly held = new Float64Array(TAPS - 1 + STRETCH);
  private filled = TAPS - 1;

  push(samples: ArrayLike<number>): void {
    for (let at = 0; at < samples.length;) {
      const run = Math.min(samples.length - at, this.held.length - this.filled);
      for (let n = 0; n < run; n++) this.held[this.filled + n] = samples[at + n];
      this.filled += run;
      at += run;
      if (this.filled === this.held.length) this.measure();
    }
  }

  /** Looks between the samples that have all their neighbours. */
  private measure(): void {
    const { held, filled } = this;
    let { peak } = this;
    for (let n = TAPS - 1; n < filled; n++) {
      const size = Math.abs(held[n]);
      if (size > peak) peak = size;
    }
    for (let at = 0; at + TAPS <= filled; at += RUN) {
      const end = Math.min(filled, at + RUN + TAPS - 1);
      let largest = 0;
      for (let n = at; n < end; n++) {
        const size = Math.abs(held[n]);
        if (size > largest) largest = size;
      }
      if (largest * MOST_GAIN > peak) for (let n = at; n + TAPS <= end; n++) peak = this.peakBetween(n, peak);
    }
    this.peak = peak;
    held.copyWithin(0, filled - (TAPS - 1), filled);
    this.filled = TAPS - 1;
  }

  /** The peak so far, and what lies between the two samples in the middle of the taps from a place on. */
  private peakBetween(at: number, peak: number): number {
    const { held } = this;
    const middle = valueAt(held, at, MIDDLE);
    let most = middle > peak ? middle : peak;
    const worth = WORTH_A_LOOK * most;
    if (middle < worth && Math.abs(held[at + HALF - 1]) < worth && Math.abs(held[at + HALF]) < worth) return most;
    for (const taps of BESIDE) {
      const value = valueAt(held, at, taps);
      if (value > most) most = value;
    }
    return most;
  }

  /** Takes what is left, and the silence after it. */
  flush(): void {
    this.push(new Float64Array(HALF));
    if (this.filled > TAPS - 1) this.measure();
  }
}

/**
 * True peak: the greatest absolute value of a signal between its samples too, by fourfold oversampling with 24 taps a phase.
 * Source: ITU-R BS.1770-4, annex 2 (which asks for at least fourfold).
 */
export class TruePeakMeter {
  private readonly channels: ChannelPeak[];

  constructor(channels: number) {
    this.channels = Array.from({ length: channels }, () => new ChannelPeak());
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
