import { analogMagnitudeDb, designEqualizer, logSpacedHz, magnitudesDb, prototype, type Section } from '../filters';
import { BAND_DEFAULTS, GAIN_RANGE_DB, Q_RANGE, type BandSettings } from '../song';
import { leastSquares } from './levenberg';

/** One band that comes nearest to the levels of some sections. */

/** A fit that strays less is the band that the sections came from, dB. */
export const EXACT_DB = 0.01;
/** A few rounds tell whether a kind of filter may fit at all. */
const FIRST_ROUNDS = 5;
const HOPELESS_DB = 1;
/** What strays more from its analog model is another filter, dB. */
const LIKELY_DB = 0.6;
/** Models that differ less in how near they are count alike, dB: digital ones follow them no closer. */
const ALIKE_DB = 0.2;
/** So many that are likely are looked at as they run. */
const MOST_LIKELY = 4;
export const POINTS = 60;

/** A number of a band that is looked for: how it is written on a scale on which steps of one size count alike. */
export interface Unknown {
  field: 'frequencyHz' | 'gainDb' | 'q' | 'rippleDb' | 'stopbandDb';
  min: number;
  max: number;
  isLog: boolean;
}
export const FREQUENCY: Unknown = { field: 'frequencyHz', min: 10, max: 30000, isLog: true };
export const GAIN: Unknown = { field: 'gainDb', ...GAIN_RANGE_DB, isLog: false };
export const WIDTH: Unknown = { field: 'q', ...Q_RANGE, isLog: true };
export const RIPPLE: Unknown = { field: 'rippleDb', min: 0.01, max: 12, isLog: true };
export const STOPBAND: Unknown = { field: 'stopbandDb', min: 10, max: 120, isLog: false };

export const scaled = (value: number, { min, max, isLog }: Unknown) => {
  const within = Math.min(max, Math.max(min, value));
  return isLog ? Math.log2(within) : within / 6;
};
export const unscaled = (value: number, { min, max, isLog }: Unknown) =>
  Math.min(max, Math.max(min, isLog ? 2 ** value : 6 * value));

/** What a stretch of sections is compared by. */
export interface Target {
  rateHz: number;
  frequenciesHz: Float64Array;
  levelsDb: Float64Array;
  weights: Float64Array;
  /** Its highest level, dB. */
  highest: number;
}

/** What lies this far below the loudest is nearly nothing: levels are taken with as much added. */
const SOFT_DB = -70;

/** Frequencies close to where something turns sharply: by its bandwidth. */
const NEAR = [0, 0.06, 0.13, 0.25, 0.5, 1, 2];

export function targetOf(sections: readonly Section[], rateHz: number, count = POINTS): Target {
  const highHz = Math.min(20000, 0.46 * rateHz);
  const sharp = sections.flatMap(({ b0, b1, b2, a1, a2 }) => {
    const roots = [resonanceOf(a1, a2, rateHz)];
    if (b0 !== 0) roots.push(resonanceOf(b1 / b0, b2 / b0, rateHz));
    return roots.flatMap(({ frequencyHz, q }) =>
      NEAR.flatMap((by) => [frequencyHz * 2 ** (by / q), frequencyHz * 2 ** (-by / q)]),
    );
  });
  const frequenciesHz = Float64Array.from(
    [...logSpacedHz(20, highHz, count), ...sharp.filter((hz) => hz >= 20 && hz <= highHz)].sort((a, b) => a - b),
  );
  const plain = magnitudesDb(sections, frequenciesHz, rateHz);
  const highest = Math.max(...plain);
  const soften = (db: number) => 10 * Math.log10(10 ** (db / 10) + 10 ** ((highest + SOFT_DB) / 10));
  const levelsDb = plain.map(soften);
  // What is far down counts less: a decibel there is heard by nobody.
  const weights = levelsDb.map((db) => 1 / (1 + (highest - db) / 30));
  return { rateHz, frequenciesHz, levelsDb, weights, highest };
}

export interface Fit {
  band: BandSettings;
  /** What the band leaves to the output gain, dB. */
  gainDb: number;
  errorDb: number;
}

/** The level by which two curves differ, and how they differ besides. */
export function difference(
  { levelsDb, weights, highest }: Target,
  own: Float64Array,
): { gainDb: number; left: Float64Array } {
  const ownHighest = own.reduce((most, db) => Math.max(most, db), -Infinity);
  // As soft where it is nearly nothing.
  const soft = own.map((db) => 10 * Math.log10(10 ** (db / 10) + 10 ** ((ownHighest + SOFT_DB) / 10)));
  let [sum, weight] = [0, 0];
  for (let i = 0; i < levelsDb.length; i++) {
    // Where something passes; what is far down would pull it off.
    const counts = levelsDb[i] > highest - 30 ? weights[i] : 0;
    sum += counts * (levelsDb[i] - soft[i]);
    weight += counts;
  }
  const gainDb = weight > 0 ? sum / weight : 0;
  return { gainDb, left: levelsDb.map((db, i) => weights[i] * (db - soft[i] - gainDb)) };
}

/** The levels of a band as it runs, dB. */
export const digitalCurve = (band: BandSettings, { frequenciesHz, rateHz }: Target) =>
  magnitudesDb(designEqualizer({ bands: [band], outputGainDb: 0 }, rateHz), frequenciesHz, rateHz);

/** The levels that a band is designed to follow: within a tenth of a decibel of how it runs, at a hundredth of the cost. */
function analogCurve(band: BandSettings, { frequenciesHz }: Target): Float64Array {
  const sections = prototype(band);
  return frequenciesHz.map((hz) => analogMagnitudeDb(sections, band.frequencyHz, hz));
}

/** The band of a kind that comes nearest. @param start what it begins with */
function fitBand(
  target: Target,
  start: Partial<BandSettings>,
  unknowns: readonly Unknown[],
  { rounds = 16, curveOf = digitalCurve } = {},
): Fit | null {
  const base: BandSettings = { ...BAND_DEFAULTS, type: 'bell', frequencyHz: 1000, ...start };
  const bandOf = (values: readonly number[]): BandSettings => ({
    ...base,
    ...Object.fromEntries(unknowns.map((unknown, i) => [unknown.field, unscaled(values[i], unknown)])),
  });
  try {
    const search = (from: readonly number[], most: number) =>
      leastSquares(
        from,
        unknowns.map(() => 1e-4),
        (trial) => difference(target, curveOf(bandOf(trial), target)).left,
        { rounds: most },
      );
    let { values, sum } = search(
      unknowns.map((unknown) => scaled(base[unknown.field], unknown)),
      FIRST_ROUNDS,
    );
    // What is still far off is another kind of filter.
    if (Math.sqrt(sum / target.levelsDb.length) < HOPELESS_DB) ({ values, sum } = search(values, rounds));
    const band = bandOf(values);
    const { gainDb, left } = difference(target, curveOf(band, target));
    return { band, gainDb, errorDb: left.reduce((most, value) => Math.max(most, Math.abs(value)), 0) };
  } catch {
    // A filter of this family that cannot be made.
    return null;
  }
}

/** Natural frequency and Q of the two roots of `1 + c1 z⁻¹ + c2 z⁻²`, as if they had been mapped by `z = exp(s/rate)`. */
export function resonanceOf(c1: number, c2: number, rateHz: number): { frequencyHz: number; q: number } {
  const half = c1 * c1 - 4 * c2;
  const root = (re: number, im: number) => ({
    re: Math.log(Math.max(1e-9, Math.hypot(re, im))) * rateHz,
    im: Math.atan2(im, re) * rateHz,
  });
  const roots =
    half < 0
      ? [root(-c1 / 2, Math.sqrt(-half) / 2), root(-c1 / 2, -Math.sqrt(-half) / 2)]
      : [root((-c1 + Math.sqrt(half)) / 2, 0), root((-c1 - Math.sqrt(half)) / 2, 0)];
  const sizes = roots.map(({ re, im }) => Math.hypot(re, im));
  const w0 = Math.sqrt(Math.max(1, sizes[0] * sizes[1]));
  const damping = -(roots[0].re + roots[1].re);
  const within = (value: number, min: number, max: number) => Math.min(max, Math.max(min, value));
  return {
    frequencyHz: within(w0 / (2 * Math.PI), 10, 0.49 * rateHz),
    q: within(damping > 0 ? w0 / damping : Q_RANGE.max, 0.2, 60),
  };
}

/** A kind of band that something may be, and what of it is looked for. */
export interface Candidate {
  start: Partial<BandSettings>;
  unknowns: readonly Unknown[];
}

const isAlike = (first: BandSettings, second: BandSettings) =>
  first.type === second.type &&
  first.family === second.family &&
  first.order === second.order &&
  Math.abs(Math.log2(first.frequencyHz / second.frequencyHz)) < 0.01;

/**
 * Bands that come near to a target, the nearest first: by their analog models, then, of the few that are likely, as they run. Where not even a
 * model comes near, as with filters that were designed otherwise, it is the one whose model comes nearest.
 */
export function nearest(target: Target, candidates: readonly Candidate[]): Fit[] {
  const models: { near: Fit; unknowns: readonly Unknown[] }[] = [];
  for (const { start, unknowns } of candidates) {
    const near = fitBand(target, start, unknowns, { curveOf: analogCurve });
    if (near && !models.some((model) => isAlike(model.near.band, near.band))) models.push({ near, unknowns });
  }
  // Of those that are equally near the simplest, which stands first, is tried first.
  const stepOf = ({ near }: { near: Fit }) => Math.floor(near.errorDb / ALIKE_DB);
  models.sort((first, second) => stepOf(first) - stepOf(second));
  const likely = models.filter(({ near }) => near.errorDb <= LIKELY_DB).slice(0, MOST_LIKELY);
  const fits: Fit[] = [];
  for (const { near, unknowns } of likely.length > 0 ? likely : models.slice(0, 1)) {
    const fit = fitBand(target, near.band, unknowns);
    if (fit) fits.push(fit);
    // An exact one that needs no gain besides is the one that was meant.
    if (fit && fit.errorDb < EXACT_DB && Math.abs(fit.gainDb) < EXACT_DB) break;
  }
  const exact = fits.filter(({ errorDb }) => errorDb < EXACT_DB);
  exact.sort((first, second) => Math.abs(first.gainDb) - Math.abs(second.gainDb));
  const others = fits.filter(({ errorDb }) => errorDb >= EXACT_DB);
  return [...exact, ...others.sort((first, second) => first.errorDb - second.errorDb)];
}
