import { decibelsOf } from '../../measure';
import { Decimator } from './decimator';
import { BANDS, bandAt, bandHz, PER_OCTAVE } from './grid';
import { quantile, runningMedian } from '../order-statistics';
import { PowerFrames } from './power-frames';

/**
 * What a recording is like around every frequency, in many ways at once: how far a band stands over the middle of the octave around it, as
 * it is most of the time or now and then, where partials lie and between them, in loud and in soft moments, at onsets and while it decays.
 * What a filter adds, which is the same in all of them, tells a resonance from what is played.
 */
export const PROFILES = 18;
/** The row by which gaps of others are filled: half of the time. */
export const USUAL = 2;
/** Rows that are no levels: share of the moments with a partial here, and how much the level moves. */
export const PARTIAL_SHARE = 8;
export const MOVEMENT = 9;

/**
 * Windows that are used between two frequencies: long ones that part partials, short ones that part moments; samples at 44.1 or 48 kHz, of which every
 * so many-th is enough.
 */
const SCALES = [
  { fromHz: 0, toHz: 400, long: 65536, short: 32768, every: 16 },
  { fromHz: 400, toHz: 1200, long: 32768, short: 8192, every: 8 },
  { fromHz: 1200, toHz: 20000, long: 16384, short: 4096, every: 1 },
] as const;
/** Bands around those of a scale that their surroundings need, octaves. */
const MARGIN_OCTAVES = 0.6;
/** A little beyond them is looked at, to tell partials. */
const NEIGHBOURING_BINS = 1.02;
/** A rate is so many times as high as what it has to hold, or more: the low-pass before it is short. */
const LEAST_RATE = 2.9;
/** Half an octave to either side is what a band is held against. */
const SIDES = PER_OCTAVE / 2;
/** Moments in which an octave is further down than this below its loud ones do not count, dB; nor those below what is heard. */
const SOUNDING_RANGE_DB = 40;
const SILENCE_DB = -110;
/** A partial stands this far over what lies four bins beside it, dB. */
const PARTIAL_DB = 8;
const ONSET_DB = 3;
/** So many moments tell something of a kind of them. */
const FEWEST = 4;
const FEWEST_PARTIALS = 2;

/** Added to each power, so that silence has a level. */
const FLOOR = 1e-16;
const toDb = (power: number) => 10 * Math.log10(power + FLOOR);
/** No more bins than this are looked at, at any rate. */
const MOST_BINS = 2 ** 16;
let ofThisThread: ReturnType<typeof decibelsOf> | undefined;
const threadDecibels = () => (ofThisThread ??= decibelsOf(MOST_BINS, FLOOR));

/** Levels of some bands over time, and what they are held against. */
class Moments {
  readonly first: number;
  readonly count: number;
  private readonly edges: Float64Array;
  private readonly binHz: number;
  private readonly frames: PowerFrames;
  private readonly sums: Float64Array;
  /** No bins beyond the last band are looked at. */
  private readonly bins: number;
  /** By moment: levels, how far they stand over their octave, the level of that octave, the strongest partial. */
  readonly levels: Float32Array[] = [];
  readonly over: Float32Array[] = [];
  readonly around: Float32Array[] = [];
  readonly partials: Float32Array[] = [];
  /** How much louder its octaves are than in the moment before, dB. */
  readonly rise: Float32Array[] = [];
  private isFirst = true;

  constructor(
    rateHz: number,
    size: number,
    hop: number,
    scale: (typeof SCALES)[number],
    private readonly seesPartials: boolean,
  ) {
    this.binHz = rateHz / size;
    this.first = scale.fromHz === 0 ? 0 : Math.ceil(bandAt(scale.fromHz * 2 ** -MARGIN_OCTAVES));
    const end = Math.min(BANDS, Math.ceil(bandAt(scale.toHz * 2 ** MARGIN_OCTAVES)));
    this.count = end - this.first;
    this.edges = Float64Array.from({ length: this.count + 1 }, (_, i) => bandHz(this.first + i - 0.5) / this.binHz);
    this.bins = Math.min(size / 2 + 1, Math.ceil(this.edges[this.count]) + 8);
    this.frames = new PowerFrames(size, hop, this.bins);
    this.sums = new Float64Array(this.bins + 1);
  }

  push(samples: readonly ArrayLike<number>[]): void {
    this.isFirst = true;
    this.frames.run(samples, (powers) => this.addFrame(powers));
  }

  private addFrame(powers: Float64Array): void {
    const { count, edges, sums } = this;
    const bins = threadDecibels()(powers, this.bins);
    for (let k = 0; k < this.bins; k++) sums[k + 1] = sums[k] + bins[k];
    const sumTo = (edge: number) => {
      const at = Math.max(0, Math.min(this.bins - 1, edge + 0.5));
      const whole = Math.floor(at);
      return sums[whole] + (at - whole) * bins[whole];
    };
    const levels = new Float32Array(count);
    for (let i = 0; i < count; i++) levels[i] = (sumTo(edges[i + 1]) - sumTo(edges[i])) / (edges[i + 1] - edges[i]);
    const middle = new Float64Array(count);
    runningMedian(levels, SIDES, middle);
    const around = meanPowerDb(levels, SIDES);
    const before = this.around[this.around.length - 1];
    this.rise.push(around.map((db, i) => (this.isFirst ? 0 : db - before[i])));
    this.isFirst = false;
    this.levels.push(levels);
    this.over.push(levels.map((db, i) => db - middle[i]));
    this.around.push(around);
    if (this.seesPartials) this.partials.push(this.partialsOf(bins));
  }

  /** The strongest partial of each band, dB; −Infinity where there is none. */
  private partialsOf(bins: Float64Array): Float32Array {
    const { first, count, binHz } = this;
    const found = new Float32Array(count).fill(-Infinity);
    const from = Math.max(6, Math.floor(bandHz(first) / binHz));
    const to = Math.min(this.bins - 5, Math.ceil(bandHz(first + count - 1) / binHz));
    for (let k = from; k <= to; k++) {
      const db = bins[k];
      if (db <= bins[k - 1] || db < bins[k + 1] || db <= bins[k - 4] + PARTIAL_DB || db <= bins[k + 4] + PARTIAL_DB)
        continue;
      const band = Math.floor(bandAt(k * binHz) + 0.5) - first;
      if (band >= 0 && band < count && db > found[band]) found[band] = db;
    }
    return found;
  }

  /** The moments in which the octave around a band sounds. */
  sounding(i: number): number[] {
    const { around } = this;
    const column = new Float32Array(around.length);
    for (let moment = 0; moment < column.length; moment++) column[moment] = around[moment][i];
    const least = Math.max(SILENCE_DB, quantile(column.slice().sort(), 0.95) - SOUNDING_RANGE_DB);
    const heard: number[] = [];
    for (let moment = 0; moment < column.length; moment++) if (column[moment] > least) heard.push(moment);
    return heard;
  }
}

/** Values that are collected one by one, and asked for a share of them. */
class Bag {
  private readonly values: Float32Array;
  count = 0;

  constructor(most: number) {
    this.values = new Float32Array(most);
  }

  clear(): void {
    this.count = 0;
  }

  add(value: number): void {
    this.values[this.count++] = value;
  }

  /** @returns NaN where there are fewer than a number of them */
  shares(shares: readonly number[], fewest: number): number[] {
    const sorted = this.values.subarray(0, this.count).sort();
    return shares.map((share) => (sorted.length < fewest ? NaN : quantile(sorted, share)));
  }

  get deviation(): number {
    if (this.count === 0) return 0;
    let [sum, squares] = [0, 0];
    for (let n = 0; n < this.count; n++) sum += this.values[n];
    const mean = sum / this.count;
    for (let n = 0; n < this.count; n++) squares += (this.values[n] - mean) ** 2;
    return Math.sqrt(squares / this.count);
  }
}

/** Level of the mean power of each band's neighbours; the ends are thought to go on. */
function meanPowerDb(levels: Float32Array, reach: number): Float32Array {
  const count = levels.length;
  const powers = new Float64Array(count);
  for (let i = 0; i < count; i++) powers[i] = 10 ** (levels[i] / 10);
  const at = (i: number) => powers[Math.max(0, Math.min(count - 1, i))];
  const out = new Float32Array(count);
  let sum = 0;
  for (let i = -reach; i <= reach; i++) sum += at(i);
  for (let i = 0; i < count; i++) {
    out[i] = 10 * Math.log10(Math.max(1e-30, sum) / (2 * reach + 1));
    sum += at(i + reach + 1) - at(i - reach);
  }
  return out;
}

/** Collects profiles of a recording, stretch by stretch. */
export class ProfileFinder {
  private readonly scales: { scale: (typeof SCALES)[number]; fewer: Decimator; long: Moments; short: Moments }[];

  /** @param rateHz sample rate */
  constructor(rateHz: number) {
    const factor = rateHz > 100000 ? 4 : rateHz > 50000 ? 2 : 1;
    this.scales = SCALES.map((scale) => {
      const passHz = scale.toHz * 2 ** MARGIN_OCTAVES * NEIGHBOURING_BINS;
      let every = scale.every * factor;
      while (every > 1 && rateHz / every < LEAST_RATE * passHz) every /= 2;
      const [long, short] = [scale.long, scale.short].map((length) => (length * factor) / every);
      return {
        scale,
        fewer: new Decimator(every, passHz, rateHz),
        long: new Moments(rateHz / every, long, long / 4, scale, true),
        short: new Moments(rateHz / every, short, short / 2, scale, false),
      };
    });
  }

  /** @param samples one array per channel, one or two of equal length: seconds that belong together */
  push(samples: readonly ArrayLike<number>[]): void {
    for (const { fewer, long, short } of this.scales) {
      const sides = samples.map((side) => fewer.of(side));
      long.push(sides);
      short.push(sides);
    }
  }

  /** Moments of the longest windows. */
  get momentCount(): number {
    return this.scales[0].long.levels.length;
  }

  /** @returns {@link PROFILES} rows of a value for each band */
  finish(): Float32Array[] {
    const rows = Array.from({ length: PROFILES }, () => new Float32Array(BANDS).fill(NaN));
    for (const { scale, long, short } of this.scales) {
      const isOwn = (band: number) => bandHz(band) >= scale.fromHz && bandHz(band) < scale.toHz;
      this.fromLong(long, isOwn, rows);
      this.fromShort(short, isOwn, rows);
    }
    for (const row of rows)
      for (let band = 0; band < BANDS; band++) if (Number.isNaN(row[band])) row[band] = rows[USUAL][band];
    return rows;
  }

  private fromLong(moments: Moments, isOwn: (band: number) => boolean, rows: Float32Array[]): void {
    const { first, count, over, around, levels, partials } = moments;
    const mean = Float64Array.from({ length: count }, (_, i) =>
      toDb(levels.reduce((sum, row) => sum + 10 ** (row[i] / 10), 0) / Math.max(1, levels.length)),
    );
    const meanMiddle = new Float64Array(count);
    runningMedian(mean, SIDES, meanMiddle);
    const hasPartial = (moment: number, i: number) => partials[moment][i] > levels[moment][i];
    const [heard, peaks, floor] = [0, 1, 2].map(() => new Bag(over.length));
    for (let i = 0; i < count; i++) {
      if (!isOwn(first + i)) continue;
      heard.clear();
      peaks.clear();
      floor.clear();
      for (const moment of moments.sounding(i)) {
        heard.add(over[moment][i]);
        if (partials[moment][i] > -Infinity) peaks.add(partials[moment][i] - around[moment][i]);
        const isBeside =
          hasPartial(moment, i) || (i > 0 && hasPartial(moment, i - 1)) || (i < count - 1 && hasPartial(moment, i + 1));
        if (!isBeside) floor.add(over[moment][i]);
      }
      const put = (row: number, value: number) => (rows[row][first + i] = value);
      put(MOVEMENT, heard.deviation);
      put(PARTIAL_SHARE, peaks.count / Math.max(1, heard.count));
      heard.shares([0.1, 0.25, 0.5, 0.75, 0.9], 1).forEach((value, row) => put(row, Number.isNaN(value) ? 0 : value));
      put(5, mean[i] - meanMiddle[i]);
      put(6, peaks.shares([0.75], FEWEST_PARTIALS)[0]);
      put(7, floor.shares([0.4], FEWEST)[0]);
    }
  }

  private fromShort(moments: Moments, isOwn: (band: number) => boolean, rows: Float32Array[]): void {
    const { first, count, over, around, levels, rise } = moments;
    const whole = levels.map((row) => toDb(row.reduce((sum, db) => sum + 10 ** (db / 10), 0) / count));
    const [level, darkness, bag] = [0, 1, 2].map(() => new Bag(over.length));
    for (let i = 0; i < count; i++) {
      if (!isOwn(first + i)) continue;
      const heard = moments.sounding(i);
      level.clear();
      darkness.clear();
      for (const moment of heard) {
        level.add(around[moment][i]);
        darkness.add(whole[moment] - around[moment][i]);
      }
      const [soft, loud] = level.shares([0.3, 0.7], 1);
      const [bright, dark] = darkness.shares([0.3, 0.7], 1);
      const of = (shares: readonly number[], isIn: (moment: number) => boolean) => {
        bag.clear();
        for (const moment of heard) if (isIn(moment)) bag.add(over[moment][i]);
        return bag.shares(shares, FEWEST);
      };
      [
        ...of([0.15, 0.5, 0.85], () => true),
        ...of([0.5], (moment) => around[moment][i] >= loud),
        ...of([0.5], (moment) => around[moment][i] <= soft),
        ...of([0.5], (moment) => Math.fround(whole[moment] - around[moment][i]) >= dark),
        ...of([0.5], (moment) => Math.fround(whole[moment] - around[moment][i]) <= bright),
        ...of([0.5], (moment) => rise[moment][i] > ONSET_DB),
      ].forEach((value, n) => (rows[10 + n][first + i] = value));
    }
  }
}
