import { designEqualizer, logSpacedHz, magnitudesDb, phasesDegrees, type Section } from '../filters';
import { BAND_DEFAULTS, type BandSettings } from '../song';
import {
  EXACT_DB,
  FREQUENCY,
  GAIN,
  POINTS,
  WIDTH,
  difference,
  digitalCurve,
  nearest,
  resonanceOf,
  scaled,
  targetOf,
  type Candidate,
  type Fit,
  type Unknown,
  unscaled,
} from './band-fit';
import { FAMILIES, fitPass, isOfPass } from './pass-fit';
import { leastSquares } from './levenberg';

/** An equalizer whose bands do what some sections do. */
export interface FittedEqualizer {
  bands: BandSettings[];
  outputGainDb: number;
  /** How far it strays at most, dB, from 20 Hz to 20 kHz, where the sections pass anything. */
  worstErrorDb: number;
}

/** How a pass filter is corrected near half of the rate changes in small steps: so near is exact for it, dB. */
const EXACT_PASS_DB = 0.03;
/** Where the sections pass less than this nothing is compared. */
const FLOOR_DB = -60;
/** Less of an output gain is what the fit has left over, dB. */
const LEAST_GAIN_DB = 0.002;
/** Bands that stray no more together are left as they were found, dB. */
const NEAR_ENOUGH_DB = 0.05;
const MOST_SECTIONS_OF_A_BAND = 9;

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
