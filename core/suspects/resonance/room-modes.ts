import { bandAt } from './grid';

/**
 * Modes of a room come in families: sound goes to and fro between two walls at a frequency and its multiples (H. Kuttruff, "Room Acoustics",
 * rectangular rooms: n · c / 2L), so what speaks too little for each of them alone may be enough for all together. All thresholds were set on
 * recordings, see docs/suspects.md.
 */

/** The lowest mode between walls that are 2.3 to 6.1 m apart, Hz; and in which steps it is looked for. */
const LOWEST_HZ = 28;
const OCTAVES = 1.4;
const STEPS_PER_OCTAVE = 120;
/** Modes tell of a family from here on, Hz. */
const TELLING_FROM_HZ = 44;
/** What is added to the evidence of each, which is what speaks for a lone one, and what it may say at least and at most. */
const PER_MODE = 1.5;
const LEAST = -3;
const MOST = 2;

/** By so many multiples a family is known, each within so many bands of its place: one family of many, or two of a few that are found together. */
const ALONE = { multiples: 5, off: 2, least: -1.1 } as const;
const PAIR = { multiples: 3, off: 1, least: 0.3 } as const;
/** Two families are further from each other than this, octaves, and from an octave. */
const APART_OCTAVES = 0.12;
const FROM_OCTAVE = 0.06;

/** Where notes are held all the time, their partials stay put as modes do: what a recording's most frequent partials tell against modes. */
const NOTES_HZ = { from: 100, to: 700 } as const;
const MOST_FREQUENT = 6;
const HELD_SHARE = 0.45;
const PER_HELD = 4;

/** The share of findings that are right, by how much more speaks for them than is needed. */
const CALIBRATION = { slope: 0.92, middle: -0.7 } as const;
const MOST_SURE = 0.97;

/** Of a family those modes are named that lie in this range and for which so much speaks. */
const NAMED_HZ = { from: 45, to: 330 } as const;
const NAMED_EVIDENCE = -2.5;
const NAMED_OFF = 3;
const NAMED_APART = 5;
/** Fewer are no family. */
export const FEWEST_MODES = 3;

/** Modes that were found together. */
interface RoomModes {
  /** Where they are, in bands, the lowest first. */
  bands: number[];
  /** How sure they are, 0 to 1. */
  sureness: number;
}

/** The band for which most speaks, so near to a place. */
function bestAround(evidence: ArrayLike<number>, hz: number, off: number): number {
  const middle = Math.round(bandAt(hz));
  let best = Math.max(0, middle - off);
  for (let band = best + 1; band <= Math.min(evidence.length - 1, middle + off); band++)
    if (evidence[band] > evidence[best]) best = band;
  return best;
}

const multiplesOf = (lowestHz: number, count: number) => Array.from({ length: count }, (_, i) => (i + 1) * lowestHz);

interface Family {
  lowestHz: number;
  score: number;
}

/** Families by every lowest frequency, what most speaks for first. */
function families(evidence: ArrayLike<number>, { multiples, off }: { multiples: number; off: number }): Family[] {
  const speaks = (hz: number) => Math.min(MOST, Math.max(LEAST, evidence[bestAround(evidence, hz, off)] + PER_MODE));
  return Array.from({ length: Math.floor(OCTAVES * STEPS_PER_OCTAVE) }, (_, step) => {
    const lowestHz = LOWEST_HZ * 2 ** (step / STEPS_PER_OCTAVE);
    const telling = multiplesOf(lowestHz, multiples).filter((hz) => hz > TELLING_FROM_HZ);
    return { lowestHz, score: telling.reduce((sum, hz) => sum + speaks(hz), 0) };
  }).sort((a, b) => b.score - a.score);
}

function areTwo(first: Family, second: Family): boolean {
  const octaves = Math.abs(Math.log2(first.lowestHz / second.lowestHz));
  return octaves > APART_OCTAVES && Math.abs(octaves - 1) > FROM_OCTAVE;
}

/** How often there is a partial where there is one most often, 0 to 1. */
function heldNotes(partialShare: ArrayLike<number>): number {
  const shares = Array.from(partialShare)
    .slice(Math.floor(bandAt(NOTES_HZ.from)), Math.floor(bandAt(NOTES_HZ.to)))
    .map((share) => Math.min(1, Math.max(0, share)))
    .sort((a, b) => b - a)
    .slice(0, MOST_FREQUENT);
  return shares.reduce((sum, share) => sum + share, 0) / MOST_FREQUENT;
}

/**
 * The modes of the room that a recording was made in; null where they are not sure enough.
 * @param evidence log odds of a resonance by band, from the first one to 400 Hz at least
 * @param partialShare share of the moments with a partial, by band
 */
export function roomModes(evidence: ArrayLike<number>, partialShare: ArrayLike<number>): RoomModes | null {
  const against = PER_HELD * Math.max(0, heldNotes(partialShare) - HELD_SHARE);
  const [alone] = families(evidence, ALONE);
  const [first, ...others] = families(evidence, PAIR);
  const second = others.find((other) => areTwo(first, other));
  const ofOne = alone.score - against - ALONE.least;
  const ofTwo = second ? first.score + second.score - against - PAIR.least : -Infinity;
  const found = [
    ...(ofOne >= 0 ? multiplesOf(alone.lowestHz, ALONE.multiples + 1) : []),
    ...(ofTwo >= 0 ? [first, second!].flatMap(({ lowestHz }) => multiplesOf(lowestHz, PAIR.multiples)) : []),
  ];
  const named: number[] = [];
  const places = found
    .filter((hz) => hz >= NAMED_HZ.from && hz <= NAMED_HZ.to)
    .map((hz) => bestAround(evidence, hz, NAMED_OFF))
    .filter((band) => evidence[band] >= NAMED_EVIDENCE)
    .sort((a, b) => evidence[b] - evidence[a]);
  for (const band of places) if (named.every((other) => Math.abs(other - band) >= NAMED_APART)) named.push(band);
  if (named.length < FEWEST_MODES) return null;
  const sureness = 1 / (1 + Math.exp(-CALIBRATION.slope * (Math.max(ofOne, ofTwo) - CALIBRATION.middle)));
  return { bands: named.sort((a, b) => a - b), sureness: Math.min(MOST_SURE, sureness) };
}
