import { BAND_DEFAULTS, GIVES_ALL_DB, GIVES_WAY, OWN_KEY, type BandSettings } from '../song';

export const SUSPECTS_VERSION = 7;

/** What may be wrong with a recording. */
export const SUSPECT_KINDS = [
  'resonance',
  'modes',
  'hum',
  'rumble',
  'hiss',
  'sibilance',
  'pops',
  'whistle',
  'clicks',
] as const;
export type SuspectKind = (typeof SUSPECT_KINDS)[number];

/** Something in a recording that is worth a listen. Nothing is done about it unheard. */
export interface Suspect {
  kind: SuspectKind;
  /** Its place; for what covers a range its geometric middle. */
  frequencyHz: number;
  /** The range that it covers. */
  lowHz: number;
  highHz: number;
  /** How far it stands over what would be expected there, dB. */
  prominenceDb: number;
  /** Share of the time in which it is there, 0 to 1. */
  timeShare: number;
  /** How sure the finding is, 0 to 1. Of a resonance the share of such findings that are right: see docs/suspects.md. */
  sureness: number;
  /** Of hum: how many harmonics stand out. */
  harmonics?: number;
  /** Of modes of a room: each of them, the lowest first. */
  modes?: Mode[];
  /** Of what is there in moments: how many there are, and when the most marked of them begin, seconds, in their order. */
  count?: number;
  moments?: number[];
  /** Of sibilants: their level as a band that gives way follows it in their range, dBFS. */
  followedDb?: number;
  /** What it was found by, for a picture: levels around it as they are seldom, half of the time and often undershot, dB. */
  picture: SuspectPicture;
}

/** A bell that would add what is found. */
interface Bell {
  frequencyHz: number;
  q: number;
  gainDb: number;
}

/** A resonance of a family. */
export interface Mode extends Bell {
  /** How sure it would be by itself, 0 to 1. */
  sureness: number;
}

/** Levels around a suspect. */
export interface SuspectPicture {
  frequenciesHz: number[];
  /** Undershot a tenth of the time, half of the time and nine tenths of it. */
  softDb: number[];
  middleDb: number[];
  loudDb: number[];
  /** True where they are counted from what is around, false from a full-scale sine. */
  isRelative: boolean;
}

/** So many moments are told. */
const MOMENTS = 8;

/** How many moments there are, and when the most marked of them begin. @param moments with what each is measured by */
export function toldMoments(
  moments: readonly { seconds: number; weight: number }[],
): Required<Pick<Suspect, 'count' | 'moments'>> {
  const marked = [...moments].sort((first, second) => second.weight - first.weight).slice(0, MOMENTS);
  const times = new Set(marked.map(({ seconds }) => Number(seconds.toFixed(2))));
  return { count: moments.length, moments: [...times].sort((first, second) => first - second) };
}

/** Q of the range that a suspect covers. */
export const suspectQ = ({ frequencyHz, lowHz, highHz }: Suspect) => frequencyHz / Math.max(1e-9, highHz - lowHz);

const within = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

const tidy = (hz: number) => Number(hz.toPrecision(3));

/** As deep as it stands out, as wide as it is: how much of that is too much is for the ear. */
function bellAgainst({ frequencyHz, q, gainDb }: Bell): BandSettings {
  return {
    ...BAND_DEFAULTS,
    type: 'bell',
    frequencyHz: tidy(frequencyHz),
    gainDb: -within(Math.round(gainDb * 2) / 2, 2, 15),
    q: Number(within(q, 2, 40).toPrecision(2)),
  };
}

/** Octaves around sibilants that a band against them listens to. */
const HISSING_OCTAVES = 1;
/** Most that it gives way, dB. */
const MOST_GIVEN_DB = 14;

/** A bell that gives way while sibilants sound: as much as they are louder than usual. */
function bellAgainstSibilants({ frequencyHz, prominenceDb, followedDb = 0 }: Suspect): BandSettings {
  const half = 2 ** (HISSING_OCTAVES / 2);
  const { thresholdDb } = GIVES_WAY;
  return {
    ...BAND_DEFAULTS,
    type: 'bell',
    frequencyHz: tidy(frequencyHz),
    q: 0.8,
    givesWay: {
      amountDb: -Math.round(within(prominenceDb, GIVES_ALL_DB, MOST_GIVEN_DB)),
      thresholdDb: Math.round(within(followedDb - prominenceDb, thresholdDb.min, thresholdDb.max)),
      attackMs: 2,
      holdMs: 0,
      releaseMs: 60,
      key: { stripId: OWN_KEY, lowHz: tidy(frequencyHz / half), highHz: tidy(frequencyHz * half) },
    },
  };
}

/**
 * Bands that fit a suspect, to begin with: bells for what is narrow, notches for hum, pass filters for what lies beyond the track, a bell that gives way for sibilants; none for
 * clicks, which no filter takes away.
 */
export function bandsForSuspect(suspect: Suspect): BandSettings[] {
  const { kind, frequencyHz, lowHz, highHz, prominenceDb } = suspect;
  switch (kind) {
    case 'resonance':
      return [bellAgainst({ frequencyHz, q: suspectQ(suspect), gainDb: prominenceDb })];
    case 'modes':
      return (suspect.modes ?? []).map(bellAgainst);
    case 'hum':
      return Array.from({ length: within(suspect.harmonics ?? 1, 1, 8) }, (_, i) => ({
        ...BAND_DEFAULTS,
        type: 'notch' as const,
        frequencyHz: tidy(frequencyHz * (i + 1)),
        q: 30,
      }));
    case 'rumble':
    case 'pops':
      return [{ ...BAND_DEFAULTS, type: 'high-pass', frequencyHz: tidy(within(highHz, 30, 150)), order: 3 }];
    case 'hiss':
      return [{ ...BAND_DEFAULTS, type: 'high-shelf', frequencyHz: tidy(Math.max(3000, lowHz)), gainDb: -6 }];
    case 'sibilance':
      return [bellAgainstSibilants(suspect)];
    case 'whistle': {
      // As wide as it moves.
      const q = Number(within(suspectQ(suspect), 1, 30).toPrecision(2));
      const centreHz = tidy(Math.sqrt(lowHz * highHz));
      return [
        { ...BAND_DEFAULTS, type: 'bell', frequencyHz: centreHz, gainDb: -within(Math.round(prominenceDb), 6, 15), q },
      ];
    }
    case 'clicks':
      return [];
  }
}

/** A suspect as a detector finds it. */
export type FoundSuspect = Omit<Suspect, 'picture'>;
