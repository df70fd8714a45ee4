import { FrameAnalyser, LevelRows, percentile, toLevelDb } from './frames';
import { runningMedian } from './order-statistics';
import type { SuspectPicture } from './suspect';

/** Bands of a twenty-fourth of an octave from 20 Hz, and what a recording has in them over time. */
export const FINE_PER_OCTAVE = 24;
export const FINE_BANDS = 10 * FINE_PER_OCTAVE;
export const FINE_HZ: readonly number[] = Array.from(
  { length: FINE_BANDS },
  (_, i) => 20 * 2 ** ((i + 0.5) / FINE_PER_OCTAVE),
);

/** A tone is held against the middle of so many bands to either side: a third of an octave. */
export const FINE_SIDES = FINE_PER_OCTAVE / 3;
/** Frames that are this far below the loudest do not count as sounding. */
const SOUNDING_RANGE_DB = 45;
const SILENCE_DB = -100;

/** In a longer recording than this, seconds, windows overlap by half: there are enough of them. */
const LONG_SECONDS = 60;

/** Windows of 0.34 s at 48 kHz, four in their length, or two; a band narrower than a bin takes the bin it lies in. */
export class FineSpectrum {
  private readonly frames: FrameAnalyser;
  private readonly rows = new LevelRows(FINE_BANDS);
  private readonly levels = new Float64Array(FINE_BANDS);
  private readonly totals: number[] = [];
  private readonly middles = new Map<number, Float32Array>();
  readonly binHz: number;
  /** From one frame to the next. */
  readonly hopSeconds: number;
  /** Middles of the bins' first and last of every band. */
  private readonly edges: { first: number; last: number }[];

  /** @param lengthFrames of the whole recording; 0 where that is not known */
  constructor(
    readonly rateHz: number,
    lengthFrames: number,
  ) {
    const size = rateHz > 50000 ? 32768 : 16384;
    this.binHz = rateHz / size;
    this.edges = FINE_HZ.map((hz) => {
      const first = Math.ceil((hz * 2 ** (-0.5 / FINE_PER_OCTAVE)) / this.binHz);
      const last = Math.min(size / 2, Math.ceil((hz * 2 ** (0.5 / FINE_PER_OCTAVE)) / this.binHz) - 1);
      const nearest = Math.round(hz / this.binHz);
      return last >= first ? { first, last } : { first: nearest, last: nearest };
    });
    const hop = size / (lengthFrames > LONG_SECONDS * rateHz ? 2 : 4);
    this.hopSeconds = hop / rateHz;
    this.frames = new FrameAnalyser(size, hop, (power) => this.addFrame(power));
  }

  push(samples: readonly ArrayLike<number>[]): void {
    this.frames.push(samples);
  }

  finish(): void {
    this.frames.finish();
  }

  private addFrame(power: Float64Array): void {
    let total = 0;
    for (let k = 1; k < power.length; k++) total += power[k];
    this.totals.push(toLevelDb(total));
    for (let band = 0; band < FINE_BANDS; band++) {
      const { first, last } = this.edges[band];
      let most = 0;
      for (let k = first; k <= last; k++) if (power[k] > most) most = power[k];
      this.levels[band] = toLevelDb(most);
    }
    this.rows.add(this.levels);
  }

  /** Numbers of the frames in which something sounds. */
  get sounding(): number[] {
    const loudest = this.totals.reduce((most, db) => Math.max(most, db), SILENCE_DB);
    return this.totals.flatMap((db, i) => (db > Math.max(SILENCE_DB, loudest - SOUNDING_RANGE_DB) ? [i] : []));
  }

  /** Every frame that is not digital silence. */
  get present(): number[] {
    return this.totals.flatMap((db, i) => (db > SILENCE_DB ? [i] : []));
  }

  get frameCount(): number {
    return this.totals.length;
  }

  totalDb(frame: number): number {
    return this.totals[frame];
  }

  /** Levels of all bands in a frame, dB. */
  levelsDb(frame: number): Float32Array {
    return this.rows.row(frame);
  }

  /** The middle of what is around each band in a frame, dB; not to be changed. */
  aroundDb(frame: number): Float32Array {
    const known = this.middles.get(frame);
    if (known) return known;
    const made = Float32Array.from(medianAround(this.levelsDb(frame), FINE_SIDES));
    this.middles.set(frame, made);
    return made;
  }

  /** Levels around a range, an octave to either side. */
  picture(lowHz: number, highHz: number): SuspectPicture {
    const frames = this.present;
    const bands = FINE_HZ.flatMap((hz, band) => (hz >= lowHz / 2 && hz <= highHz * 2 ? [band] : []));
    const sorted = bands.map((band) => this.rows.sorted(band, frames));
    const at = (share: number) => sorted.map((levels) => Number(percentile(levels, share).toFixed(1)));
    return {
      frequenciesHz: bands.map((band) => Number(FINE_HZ[band].toPrecision(4))),
      softDb: at(0.1),
      middleDb: at(0.5),
      loudDb: at(0.9),
      isRelative: false,
    };
  }

  /** Levels of each band that are not reached in some shares of some frames, dB: a row for each share. */
  percentilesDb(frames: readonly number[], shares: readonly number[]): Float64Array[] {
    const found = shares.map(() => new Float64Array(FINE_BANDS));
    for (let band = 0; band < FINE_BANDS; band++) {
      const sorted = this.rows.sorted(band, frames);
      shares.forEach((share, i) => (found[i][band] = percentile(sorted, share)));
    }
    return found;
  }
}

/** The highest of the neighbours. */
export function highestAround(values: ArrayLike<number>, reach: number): Float64Array {
  const highest = new Float64Array(values.length).fill(-Infinity);
  for (let i = 0; i < values.length; i++)
    for (let k = Math.max(0, i - reach); k <= Math.min(values.length - 1, i + reach); k++)
      if (values[k] > highest[i]) highest[i] = values[k];
  return highest;
}

/** The middle one of the neighbours; the ends are thought to go on. */
export function medianAround(values: ArrayLike<number>, reach: number): Float64Array {
  const middle = new Float64Array(values.length);
  runningMedian(values, reach, middle);
  return middle;
}
