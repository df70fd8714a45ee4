import { kaiser, sineCardinal } from '../filters/kaiser';
import { dot } from './dot';

/** So many samples for one: twice as many, three times over. */
export const FACTOR = 8;

const KAISER_BETA = 9;

/**
 * A low-pass as a Kaiser-windowed sinc, about 90 dB down; the sum of its taps is 1.
 * @param corner share of half the rate that it runs at
 * @param middle its delay, samples, which may be a fraction
 */
function lowPass(length: number, corner: number, middle = (length - 1) / 2): Float64Array {
  const half = Math.max(middle, length - 1 - middle) + 1;
  const taps = Float64Array.from({ length }, (_, n) => {
    return sineCardinal(corner * (n - middle)) * kaiser((n - middle) / half, KAISER_BETA);
  });
  const sum = taps.reduce((all, tap) => all + tap, 0);
  return taps.map((tap) => tap / sum);
}

/** A history that is kept twice, so that a filter reads on without a wrap; latest sample first. */
class Past {
  private readonly kept: Float64Array;
  private at = 0;

  constructor(private readonly length: number) {
    this.kept = new Float64Array(2 * length);
  }

  push(sample: number): void {
    this.at = this.at === 0 ? this.length - 1 : this.at - 1;
    this.kept[this.at] = this.kept[this.at + this.length] = sample;
  }

  dot(taps: Float64Array): number {
    return dot(taps, this.kept, this.at);
  }

  /** What was pushed so many samples ago. */
  back(samples: number): number {
    return this.kept[this.at + samples];
  }

  reset(): void {
    this.kept.fill(0);
  }
}

/**
 * The taps of a half-band filter beside its middle one, which is a half: every second of the others is 0. Its delay is reach − 1.
 * @param reach how many they are; even
 */
function halfBand(reach: number): Float64Array {
  const taps = lowPass(2 * reach - 1, 0.5).filter((_, n) => n % 2 === 0);
  const sum = taps.reduce((all, tap) => all + tap, 0);
  return taps.map((tap) => tap / sum / 2);
}

/** From one rate to twice as much: of each pair of samples one is filtered, the other is the input itself, late. */
class Doubling {
  private readonly past: Past;

  constructor(private readonly taps: Float64Array) {
    this.past = new Past(taps.length);
  }

  /** Writes two samples. */
  push(sample: number, out: Float64Array, at: number): void {
    this.past.push(sample);
    out[at] = this.past.dot(this.taps);
    out[at + 1] = this.past.back(this.taps.length / 2 - 1);
  }

  reset(): void {
    this.past.reset();
  }
}

/** From one rate to half of it, with what was in the upper half gone. */
class Halving {
  private readonly sides: [Past, Past];

  constructor(private readonly taps: Float64Array) {
    this.sides = [new Past(taps.length), new Past(taps.length)];
  }

  decimate(first: number, second: number): number {
    const [even, odd] = this.sides;
    even.push(first);
    odd.push(second);
    return even.dot(this.taps) + 0.5 * odd.back(this.taps.length / 2);
  }

  reset(): void {
    for (const side of this.sides) side.reset();
  }
}

/** Input samples that each doubling looks at: the first has images right above what is heard, the others have none for long. */
const REACHES = [40, 12, 10] as const;
const LATE_FRAMES = 66;
/** Delay of everything but the last step down, in dense samples: three doublings, half a sample for what is between, two halvings. */
const BEFORE_LAST = 4 * (REACHES[0] - 1) + 4 * (REACHES[1] - 1) + 2 * (REACHES[2] - 1) + 0.5;
/** The last step down is steep: what it lets through folds back. Its corner lies below half the rate; its delay makes the whole one of frames. */
const LAST_TAPS = 153;
const LAST_CORNER = 0.4583;
const LAST_DELAY = (FACTOR * LATE_FRAMES - BEFORE_LAST) / 4 - 1;

/** Makes up for what the mean of two neighbours at the densest rate takes at the top, cos(ω/2), at the rate of the last step down. */
function sharpened(taps: Float64Array): Float64Array {
  const amount = 0.125 / 16;
  const at = (n: number) => taps[n] ?? 0;
  return Float64Array.from(
    { length: taps.length + 2 },
    (_, n) => (1 + 2 * amount) * at(n - 1) - amount * (at(n) + at(n - 2)),
  );
}
const LAST = sharpened(lowPass(LAST_TAPS, LAST_CORNER, LAST_DELAY));
const UP = REACHES.map((reach) => halfBand(reach).map((tap) => 2 * tap));
const DOWN = [REACHES[2], REACHES[1]].map(halfBand);

/** The taps of all filters in the order in which a sample comes through them. */
export const OVERSAMPLING_TAPS = [...UP, ...DOWN, LAST] as const;

/**
 * Eightfold oversampling of one side by linear-phase filters: {@link up} gives the dense samples, which are changed in place by something
 * that is half a dense sample late, and {@link down} takes them back.
 */
export class Oversampling {
  static readonly latencyFrames = LATE_FRAMES;
  private readonly doublings = UP.map((taps) => new Doubling(taps));
  private readonly halvings = DOWN.map((taps) => new Halving(taps));
  private readonly last = new Past(LAST.length);
  private readonly pairs = new Float64Array(2);
  private readonly fours = new Float64Array(4);
  private readonly dense = new Float64Array(FACTOR);

  up(sample: number): Float64Array {
    const { pairs, fours, dense } = this;
    this.doublings[0].push(sample, pairs, 0);
    for (let i = 0; i < 2; i++) this.doublings[1].push(pairs[i], fours, 2 * i);
    for (let i = 0; i < 4; i++) this.doublings[2].push(fours[i], dense, 2 * i);
    return dense;
  }

  down(): number {
    const { pairs, fours, dense } = this;
    for (let i = 0; i < 4; i++) fours[i] = this.halvings[0].decimate(dense[2 * i], dense[2 * i + 1]);
    for (let i = 0; i < 2; i++) pairs[i] = this.halvings[1].decimate(fours[2 * i], fours[2 * i + 1]);
    this.last.push(pairs[0]);
    const out = this.last.dot(LAST);
    this.last.push(pairs[1]);
    return out;
  }

  reset(): void {
    for (const doubling of this.doublings) doubling.reset();
    for (const halving of this.halvings) halving.reset();
    this.last.reset();
  }
}
