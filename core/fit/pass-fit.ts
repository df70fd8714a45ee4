import { type Section } from '../filters';
import { type BandSettings, type PassFamily } from '../song';
import {
  FREQUENCY,
  RIPPLE,
  STOPBAND,
  WIDTH,
  nearest,
  resonanceOf,
  targetOf,
  type Candidate,
  type Fit,
  type Unknown,
} from './band-fit';

/** Unknowns of a pass filter besides its corner. */
export const FAMILIES: readonly {
  family: PassFamily;
  unknowns: readonly Unknown[];
  starts: Partial<BandSettings>[];
}[] = [
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
export function fitPass(sections: readonly Section[], rateHz: number): Fit | null {
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
export function isOfPass(section: Section, rateHz: number): boolean {
  const { levelsDb } = targetOf([section], rateHz);
  return (
    Math.abs(levelsDb[0] - levelsDb[levelsDb.length - 1]) > 3 || Math.min(...levelsDb) < Math.max(...levelsDb) - 20
  );
}
