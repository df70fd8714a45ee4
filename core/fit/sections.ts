import {
  analogMagnitudeDb,
  designEqualizer,
  logSpacedHz,
  magnitudesDb,
  phasesDegrees,
  prototype,
  type Section,
} from '../filters';
import { BAND_DEFAULTS, GAIN_RANGE_DB, Q_RANGE, type BandSettings, type PassFamily } from '../song';
import { leastSquares } from './levenberg';

/** An equalizer whose bands do what some sections do. */
export interface FittedEqualizer {
  bands: BandSettings[];
  outputGainDb: number;
  /** How far it strays at most, dB, from 20 Hz to 20 kHz, where the sections pass anything. */
  worstErrorDb: number;
}

/** A fit that strays less is the band that the sections came from, dB. */
const EXACT_DB = 0.01;
/** How a pass filter is corrected near half of the rate changes in small steps: so near is exact for it, dB. */
const EXACT_PASS_DB = 0.03;
/** Where the sections pass less than this nothing is compared. */
const FLOOR_DB = -60;
/** Less of an output gain is what the fit has left over, dB. */
const LEAST_GAIN_DB = 0.002;
/** Bands that stray no more together are left as they were found, dB. */
const NEAR_ENOUGH_DB = 0.05;
/** A few rounds tell whether a kind of filter may fit at all. */
const FIRST_ROUNDS = 5;
const HOPELESS_DB = 1;
/** What strays more from its analog model is another filter, dB. */
const LIKELY_DB = 0.6;
/** Models that differ less in how near they are count alike, dB: digital ones follow them no closer. */
const ALIKE_DB = 0.2;
/** So many that are likely are looked at as they run. */
const MOST_LIKELY = 4;
const POINTS = 60;
const MOST_SECTIONS_OF_A_BAND = 9;

/** A number of a band that is looked for: how it is written on a scale on which steps of one size count alike. */
interface Unknown {
  field: 'frequencyHz' | 'gainDb' | 'q' | 'rippleDb' | 'stopbandDb';
  min: number;
  max: number;
  isLog: boolean;
}
const FREQUENCY: Unknown = { field: 'frequencyHz', min: 10, max: 30000, isLog: true };
const GAIN: Unknown = { field: 'gainDb', ...GAIN_RANGE_DB, isLog: false };
const WIDTH: Unknown = { field: 'q', ...Q_RANGE, isLog: true };
const RIPPLE: Unknown = { field: 'rippleDb', min: 0.01, max: 12, isLog: true };
const STOPBAND: Unknown = { field: 'stopbandDb', min: 10, max: 120, isLog: false };

const scaled = (value: number, { min, max, isLog }: Unknown) => {
  const within = Math.min(max, Math.max(min, value));
  return isLog ? Math.log2(within) : within / 6;
};
const unscaled = (value: number, { min, max, isLog }: Unknown) =>
  Math.min(max, Math.max(min, isLog ? 2 ** value : 6 * value));

/** What a stretch of sections is compared by. */
interface Target {
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

function targetOf(sections: readonly Section[], rateHz: number, count = POINTS): Target {
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

interface Fit {
  band: BandSettings;
  /** What the band leaves to the output gain, dB. */
  gainDb: number;
  errorDb: number;
}

/** The level by which two curves differ, and how they differ besides. */
function difference({ levelsDb, weights, highest }: Target, own: Float64Array): { gainDb: number; left: Float64Array } {
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
const digitalCurve = (band: BandSettings, { frequenciesHz, rateHz }: Target) =>
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
function resonanceOf(c1: number, c2: number, rateHz: number): { frequencyHz: number; q: number } {
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
interface Candidate {
  start: Partial<BandSettings>;
  unknowns: readonly Unknown[];
}

const isAlike = (one: BandSettings, other: BandSettings) =>
  one.type === other.type &&
  one.family === other.family &&
  one.order === other.order &&
  Math.abs(Math.log2(one.frequencyHz / other.frequencyHz)) < 0.01;

/**
 * Bands that come near to a target, the nearest first: by their analog models, then, of the few that are likely, as they run. Where not even a
 * model comes near, as with filters that were designed otherwise, it is the one whose model comes nearest.
 */
function nearest(target: Target, candidates: readonly Candidate[]): Fit[] {
  const models: { near: Fit; unknowns: readonly Unknown[] }[] = [];
  for (const { start, unknowns } of candidates) {
    const near = fitBand(target, start, unknowns, { curveOf: analogCurve });
    if (near && !models.some((other) => isAlike(other.near.band, near.band))) models.push({ near, unknowns });
  }
  // Of those that are equally near the simplest, which stands first, is tried first.
  const stepOf = ({ near }: { near: Fit }) => Math.floor(near.errorDb / ALIKE_DB);
  models.sort((one, other) => stepOf(one) - stepOf(other));
  const likely = models.filter(({ near }) => near.errorDb <= LIKELY_DB).slice(0, MOST_LIKELY);
  const fits: Fit[] = [];
  for (const { near, unknowns } of likely.length > 0 ? likely : models.slice(0, 1)) {
    const fit = fitBand(target, near.band, unknowns);
    if (fit) fits.push(fit);
    // An exact one that needs no gain besides is the one that was meant.
    if (fit && fit.errorDb < EXACT_DB && Math.abs(fit.gainDb) < EXACT_DB) break;
  }
  const exact = fits.filter(({ errorDb }) => errorDb < EXACT_DB);
  exact.sort((one, other) => Math.abs(one.gainDb) - Math.abs(other.gainDb));
  const others = fits.filter(({ errorDb }) => errorDb >= EXACT_DB);
  return [...exact, ...others.sort((one, other) => one.errorDb - other.errorDb)];
}

/** Kinds of bands that are one section, tried one after the other until one is exact. */
function fitSingle(section: Section, rateHz: number): Fit | null {
  const target = targetOf([section], rateHz);
  const { frequencyHz, q } = resonanceOf(section.a1, section.a2, rateHz);
  const zero = resonanceOf(section.b1 / (section.b0 || 1e-12), section.b2 / (section.b0 || 1e-12), rateHz);
  const { levelsDb } = target;
  const [low, high] = [levelsDb[0], levelsDb[levelsDb.length - 1]];
  const flatness = Math.max(...levelsDb) - Math.min(...levelsDb);
  if (flatness < 0.01) return fitFlat(section, rateHz, { frequencyHz, q }, low);
  const peak = levelsDb.reduce((most, db) => (Math.abs(db - high) > Math.abs(most - high) ? db : most), low);
  const width = Math.sqrt(q * zero.q);
  // A shelf is half of what it is, in decibels, at its corner.
  const half = levelsDb.findIndex(
    (db, i) => i > 0 && (db - (low + high) / 2) * (levelsDb[i - 1] - (low + high) / 2) <= 0,
  );
  const corner = half < 0 ? frequencyHz : target.frequenciesHz[half];
  const shelf = (type: 'low-shelf' | 'high-shelf', own: number): Candidate => ({
    start: { type, frequencyHz: corner, gainDb: type === 'low-shelf' ? low - high : high - low, q: own },
    unknowns: [FREQUENCY, GAIN, WIDTH],
  });
  const [fit] = nearest(target, [
    {
      start: { type: 'bell', frequencyHz, gainDb: peak - (low + high) / 2, q: width },
      unknowns: [FREQUENCY, GAIN, WIDTH],
    },
    { start: { type: 'tilt', frequencyHz: 1000, gainDb: high - low }, unknowns: [FREQUENCY, GAIN] },
    ...[0.7, 0.4, 1.5].flatMap((own) => [shelf('low-shelf', own), shelf('high-shelf', own)]),
    // It lies where its zeros do.
    ...[width, q].map((own): Candidate => ({
      start: { type: 'notch', frequencyHz: zero.frequencyHz, q: own },
      unknowns: [WIDTH],
    })),
  ]);
  return fit ?? null;
}

/** A section that changes no level: an all-pass, by what it does to the phase, or nothing but a gain. */
function fitFlat(
  section: Section,
  rateHz: number,
  start: { frequencyHz: number; q: number },
  gainDb: number,
): Fit | null {
  const frequenciesHz = logSpacedHz(20, Math.min(20000, 0.46 * rateHz), POINTS);
  const wanted = phasesDegrees([section], frequenciesHz, rateHz, true);
  const turn = (degrees: number) => degrees - 360 * Math.round(degrees / 360);
  if (Math.max(...Array.from(wanted, (degrees) => Math.abs(turn(degrees)))) < 0.01)
    return { band: { ...BAND_DEFAULTS, type: 'bell', frequencyHz: 1000, gainDb: 0 }, gainDb, errorDb: 0 };
  const unknowns = [FREQUENCY, WIDTH];
  const bandOf = (values: readonly number[]): BandSettings => ({
    ...BAND_DEFAULTS,
    type: 'all-pass',
    frequencyHz: unscaled(values[0], FREQUENCY),
    q: unscaled(values[1], WIDTH),
  });
  const { values } = leastSquares(
    [scaled(start.frequencyHz, FREQUENCY), scaled(start.q, WIDTH)],
    unknowns.map(() => 1e-4),
    (trial) => {
      const own = phasesDegrees(
        designEqualizer({ bands: [bandOf(trial)], outputGainDb: 0 }, rateHz),
        frequenciesHz,
        rateHz,
        true,
      );
      return Float64Array.from(own, (degrees, i) => turn(wanted[i] - degrees));
    },
  );
  return { band: bandOf(values), gainDb, errorDb: 0 };
}

/** Unknowns of a pass filter besides its corner. */
const FAMILIES: readonly { family: PassFamily; unknowns: readonly Unknown[]; starts: Partial<BandSettings>[] }[] = [
  { family: 'butterworth', unknowns: [], starts: [{}] },
  { family: 'linkwitz-riley', unknowns: [], starts: [{}] },
  { family: 'bessel', unknowns: [], starts: [{}] },
  { family: 'resonant', unknowns: [WIDTH], starts: [{ q: 0.7 }, { q: 3 }] },
  { family: 'chebyshev-1', unknowns: [RIPPLE], starts: [{ rippleDb: 1 }, { rippleDb: 0.1 }] },
  {
    family: 'chebyshev-2',
    unknowns: [STOPBAND],
    starts: [{ stopbandDb: 40 }, { stopbandDb: 60 }, { stopbandDb: 25 }, { stopbandDb: 80 }],
  },
  {
    family: 'elliptic',
    unknowns: [RIPPLE, STOPBAND],
    starts: [
      { rippleDb: 1, stopbandDb: 40 },
      { rippleDb: 0.2, stopbandDb: 60 },
      { rippleDb: 2, stopbandDb: 80 },
    ],
  },
];

const isAllowed = (family: PassFamily, order: number) =>
  order >= 1 &&
  order <= 16 &&
  (family !== 'linkwitz-riley' || order % 2 === 0) &&
  (family !== 'resonant' || (order >= 2 && order <= 8)) &&
  (order > 1 || family === 'butterworth');

const ZEROS_IN_STOPBAND: readonly PassFamily[] = ['chebyshev-2', 'elliptic'];

/** True for a section that lets nothing through at one frequency between the ends. */
function hasStopbandZero({ b0, b1, b2 }: Section, rateHz: number): boolean {
  if (b0 === 0 || b1 * b1 >= 4 * b0 * b2) return false;
  const { frequencyHz } = resonanceOf(b1 / b0, b2 / b0, rateHz);
  return Math.abs(b2 / b0 - 1) < 0.02 && frequencyHz > 12 && frequencyHz < 0.46 * rateHz;
}

/** A stretch of sections as one pass filter, or band-pass. @returns the first that is exact, else the nearest */
function fitPass(sections: readonly Section[], rateHz: number): Fit | null {
  const target = targetOf(sections, rateHz);
  const { levelsDb, frequenciesHz } = target;
  const [low, high] = [levelsDb[0], levelsDb[levelsDb.length - 1]];
  const top = Math.max(...levelsDb);
  const poles = sections.map(({ a1, a2 }) => resonanceOf(a1, a2, rateHz));
  const middle = 2 ** (poles.reduce((sum, { frequencyHz }) => sum + Math.log2(frequencyHz), 0) / poles.length);
  if (low < top - 10 && high < top - 10) {
    const at = frequenciesHz[levelsDb.indexOf(top)];
    const bandPass = (q: number): Candidate => ({
      start: { type: 'band-pass', frequencyHz: at, q },
      unknowns: [FREQUENCY, WIDTH],
    });
    return nearest(target, [0.7, 3, 12].map(bandPass))[0] ?? null;
  }
  const type = low < high ? 'high-pass' : 'low-pass';
  // Where it is 3 dB down, as seen from the side that it passes.
  const passed = type === 'high-pass' ? [...levelsDb].reverse() : [...levelsDb];
  const edge = passed.findIndex((db) => db < passed[0] - 3);
  const edgeHz = edge < 0 ? middle : frequenciesHz[type === 'high-pass' ? levelsDb.length - 1 - edge : edge];
  const count = sections.length;
  // A low-pass may have sections besides, which correct what lies near half of the rate.
  const orders = Array.from({ length: type === 'high-pass' ? 2 : Math.ceil(1.5 * count) }, (_, i) => 2 * count - i);
  const hasStopbandZeros = sections.some((section) => hasStopbandZero(section, rateHz));
  const candidates = FAMILIES.flatMap(({ family, unknowns, starts }) =>
    hasStopbandZeros === ZEROS_IN_STOPBAND.includes(family)
      ? orders
          .filter((order) => isAllowed(family, order))
          .flatMap((order) =>
            starts.map((start) => ({
              start: { type, family, order, frequencyHz: edgeHz, ...start } as Partial<BandSettings>,
              unknowns: [FREQUENCY, ...unknowns],
            })),
          )
      : [],
  );
  return nearest(target, candidates)[0] ?? null;
}

/** True for a section that only a pass filter has: it lets nothing through at one end, or much less than at the other. */
function isOfPass(section: Section, rateHz: number): boolean {
  const { levelsDb } = targetOf([section], rateHz);
  return (
    Math.abs(levelsDb[0] - levelsDb[levelsDb.length - 1]) > 3 || Math.min(...levelsDb) < Math.max(...levelsDb) - 20
  );
}

/**
 * Ordinary bands that do what second-order sections do. Sections of one band stand beside each other, as `sections` writes them: the longest
 * stretch that is one pass filter to a hundredth of a decibel is taken for one; every other section becomes the band that comes nearest.
 * @param sections stable, at most a few hundred
 */
export function fitSections(sections: readonly Section[], rateHz: number): FittedEqualizer {
  const singles = sections.map((section) => fitSingle(section, rateHz));
  const isExact = (i: number) => (singles[i]?.errorDb ?? Infinity) < EXACT_DB;
  // What stands near half of the rate corrects the filter beside it.
  const isCorrection = (i: number) => (singles[i]?.band.frequencyHz ?? 0) > 0.4 * rateHz;
  const isPart = sections.map((section, i) => !isExact(i) || isOfPass(section, rateHz) || isCorrection(i));
  const fits: Fit[] = [];
  for (let at = 0; at < sections.length;) {
    let run = 0;
    while (run < MOST_SECTIONS_OF_A_BAND && at + run < sections.length && isPart[at + run]) run++;
    let fit = singles[at];
    let taken = 1;
    for (let length = run; length >= 1; length--) {
      const pass = fitPass(sections.slice(at, at + length), rateHz);
      const isNearer = length === 1 && pass !== null && !isExact(at) && (!fit || pass.errorDb < fit.errorDb);
      if (pass && (pass.errorDb < EXACT_PASS_DB || isNearer)) {
        [fit, taken] = [pass, length];
        break;
      }
    }
    if (fit) fits.push(fit);
    at += taken;
  }
  const gainDb = fits.reduce((sum, fit) => sum + fit.gainDb, 0);
  const outputGainDb = Math.abs(gainDb) < LEAST_GAIN_DB ? 0 : Math.min(36, Math.max(-36, gainDb));
  const bands = fits.map(({ band }) => band).filter((band) => !(band.type === 'bell' && Math.abs(band.gainDb) < 1e-6));
  const apart = { bands, outputGainDb, worstErrorDb: strayDb(sections, { bands, outputGainDb }, rateHz) };
  if (apart.worstErrorDb < NEAR_ENOUGH_DB || bands.length < 2) return apart;
  const together = fitTogether(sections, apart, rateHz);
  return together.worstErrorDb < apart.worstErrorDb ? together : apart;
}

/** What all bands are moved by when they are fitted together. */
function unknownsOf({ type, family }: BandSettings): readonly Unknown[] {
  switch (type) {
    case 'bell':
    case 'low-shelf':
    case 'high-shelf':
      return [FREQUENCY, GAIN, WIDTH];
    case 'tilt':
      return [FREQUENCY, GAIN];
    case 'notch':
    case 'band-pass':
      return [FREQUENCY, WIDTH];
    case 'high-pass':
    case 'low-pass':
      return [FREQUENCY, ...FAMILIES.find((known) => known.family === family)!.unknowns];
    default:
      return [];
  }
}

/** Moves all bands at once, so that one makes up for what another cannot. @param apart bands that were fitted one after the other */
function fitTogether(
  sections: readonly Section[],
  { bands, outputGainDb }: FittedEqualizer,
  rateHz: number,
): FittedEqualizer {
  const target = targetOf(sections, rateHz);
  const places = bands.flatMap((band, of) => unknownsOf(band).map((unknown) => ({ of, unknown })));
  const moved = (values: readonly number[]) =>
    bands.map((band, of) => ({
      ...band,
      ...Object.fromEntries(
        places.flatMap((place, i) =>
          place.of === of ? [[place.unknown.field, unscaled(values[i], place.unknown)]] : [],
        ),
      ),
    }));
  // Of the many trials most move one band only.
  const known = bands.map(() => new Map<string, Float64Array>());
  const curveOf = (band: BandSettings, i: number) => {
    const name = JSON.stringify(band);
    const curve = known[i].get(name) ?? digitalCurve(band, target);
    known[i].set(name, curve);
    return curve;
  };
  const sumOf = (values: readonly number[]) => {
    const curves = moved(values).map(curveOf);
    return target.frequenciesHz.map((_, i) => curves.reduce((total, curve) => total + curve[i], outputGainDb));
  };
  try {
    const { values } = leastSquares(
      places.map(({ of, unknown }) => scaled(bands[of][unknown.field], unknown)),
      places.map(() => 1e-4),
      (trial) => difference(target, sumOf(trial)).left,
    );
    const together = { bands: moved(values), outputGainDb: outputGainDb + difference(target, sumOf(values)).gainDb };
    return { ...together, worstErrorDb: strayDb(sections, together, rateHz) };
  } catch {
    return { bands: [...bands], outputGainDb, worstErrorDb: Infinity };
  }
}

/** How far an equalizer strays from sections at most, where they pass anything, dB. */
function strayDb(
  sections: readonly Section[],
  equalizer: Pick<FittedEqualizer, 'bands' | 'outputGainDb'>,
  rateHz: number,
): number {
  const { frequenciesHz, highest } = targetOf(sections, rateHz, 400);
  const wanted = magnitudesDb(sections, frequenciesHz, rateHz);
  const own = magnitudesDb(designEqualizer(equalizer, rateHz), frequenciesHz, rateHz);
  return wanted.reduce((most, db, i) => (db > highest + FLOOR_DB ? Math.max(most, Math.abs(db - own[i])) : most), 0);
}
