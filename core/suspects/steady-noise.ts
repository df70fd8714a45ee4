import { FINE_HZ, type FineSpectrum } from './fine-spectrum';
import { percentile } from './frames';
import type { FoundSuspect } from './suspect';

/** What a quiet recording is taken to have anyway, level of a range, dB relative to a full-scale sine; and how far noise must stand over that. */
const QUIET_DB = -80;
const LEAST_PROMINENCE_DB = 4;
const FEWEST_FRAMES = 45;
/** Width of a band over its middle. */
const BAND_WIDTH = 2 ** (1 / 48) - 2 ** (-1 / 48);
/** The highest of so many bins of noise stands over their mean by ln n + 0.58, by ratio: powers of noise are distributed exponentially. */
const meanOfHighest = (bins: number) => (bins > 1 ? bins / (Math.log(bins) + 0.58) : 1);
/** From its twentieth to its third lowest moment in ten, a band of one bin moves by its nature; the highest of many bins is calmer, dB. */
const CALM_DB = { oneBin: 15, manyBins: 3 };
const MANY_BINS = 20;
/** So many of its bands are calm: a tone that stays is not in all of them. */
const CALM_SHARE = 0.7;

/** Noise that runs under all is a floor: a range is never softer, and for a while just as soft. */
interface Range {
  kind: 'rumble' | 'hiss';
  fromHz: number;
  toHz: number;
  /** What is calm beside it belongs to it as far as this, Hz. */
  reachHz: readonly [number, number];
  /**
   * How far the level of the range rises from its twentieth softest moment on, dB: up to a tenth, a fifth and three tenths of the time, in a recording that
   * moves, as a whole, by so much between a fifth and 95 % of the time. What hardly moves at all may be noise by intention, or notes that are held.
   */
  floors: readonly { risesDb: readonly [number, number, number]; movesDb: number }[];
}
const RUMBLE: Range = {
  kind: 'rumble',
  fromHz: 20,
  toHz: 42,
  reachHz: [0, 80],
  floors: [{ risesDb: [1.5, 2.7, 3.5], movesDb: 3 }],
};
const HISS: Range = {
  kind: 'hiss',
  fromHz: 5000,
  toHz: 15000,
  reachHz: [2000, 20000],
  floors: [
    { risesDb: [0.3, 0.45, 0.8], movesDb: 3 },
    { risesDb: [0.5, 1.3, 3], movesDb: 11 },
  ],
};

const toDb = (power: number) => 10 * Math.log10(power + 1e-20);

/**
 * Noise that runs under all that is played: rumble below 45 Hz, hiss above 5 kHz.
 * @param isHum true at frequencies of hum, which is calm as well
 */
export function steadyNoise(fine: FineSpectrum, isHum: (hz: number) => boolean): FoundSuspect[] {
  const frames = fine.present;
  if (frames.length < FEWEST_FRAMES) return [];
  const totals = frames.map((frame) => fine.totalDb(frame)).sort((a, b) => a - b);
  const moves = percentile(totals, 0.95) - percentile(totals, 0.2);
  const [soft, floor, later] = fine.percentilesDb(frames, [0.05, 0.2, 0.3]);
  const binsOf = (band: number) => (FINE_HZ[band] * BAND_WIDTH) / fine.binHz;
  const isCalm = (band: number) =>
    later[band] - soft[band] <= (binsOf(band) > MANY_BINS ? CALM_DB.manyBins : CALM_DB.oneBin) && floor[band] > -115;
  return [RUMBLE, HISS].flatMap(({ kind, fromHz, toHz, reachHz, floors }): FoundSuspect[] => {
    const bands = FINE_HZ.flatMap((hz, band) => (hz >= fromHz && hz <= toHz && !isHum(hz) ? [band] : []));
    if (bands.length === 0 || bands.filter(isCalm).length < CALM_SHARE * bands.length) return [];
    const levels = frames
      .map((frame) => {
        const row = fine.levelsDb(frame);
        return toDb(bands.reduce((sum, band) => sum + 10 ** (row[band] / 10), 0));
      })
      .sort((a, b) => a - b);
    const rises = [0.1, 0.2, 0.3].map((share) => percentile(levels, share) - percentile(levels, 0.05));
    if (!floors.some(({ risesDb, movesDb }) => moves >= movesDb && rises.every((db, i) => db <= risesDb[i]))) return [];
    // A band's level is that of its strongest bin; noise fills all of them.
    const levelDb = toDb(bands.reduce((sum, band) => sum + 10 ** (floor[band] / 10) * meanOfHighest(binsOf(band)), 0));
    const prominenceDb = levelDb - QUIET_DB;
    if (prominenceDb < LEAST_PROMINENCE_DB) return [];
    // What is calm may reach further.
    let [first, last] = [bands[0], bands[bands.length - 1]];
    while (FINE_HZ[first - 1] > reachHz[0] && isCalm(first - 1)) first--;
    while (FINE_HZ[last + 1] < reachHz[1] && isCalm(last + 1)) last++;
    const [lowHz, highHz] = [FINE_HZ[first], FINE_HZ[last]];
    return [
      {
        kind,
        frequencyHz: Math.sqrt(lowHz * highHz),
        lowHz,
        highHz,
        prominenceDb,
        timeShare: 1,
        sureness: Math.min(0.95, 0.7 + prominenceDb / 100),
      },
    ];
  });
}
