import { designBand, magnitudesDb } from '../filters';
import { BAND_DEFAULTS, type BandSettings } from '../song';

/** Where a mix is heard that is not the room it is made in: for the ear only, never rendered. */
export const PLACE_IDS = [
  'small-speakers',
  'laptop',
  'telephone',
  'car',
  'loud-room',
  'headphones',
  'one-ear',
  'very-quiet',
] as const;
export type PlaceId = (typeof PLACE_IDS)[number];

export interface Place {
  id: PlaceId;
  name: string;
  /** What it does, and what that is taken from. */
  about: string;
  /** Filters of the whole mix; those of the sides alone narrow it. */
  bands: readonly BandSettings[];
  /** What each ear gets of it: 0 or 1. */
  ears: readonly [left: number, right: number];
}

const band = (changes: Pick<BandSettings, 'type' | 'frequencyHz'> & Partial<BandSettings>): BandSettings => ({
  ...BAND_DEFAULTS,
  ...changes,
});
const highPass = (frequencyHz: number, order: number, channel: BandSettings['channel'] = 'stereo') =>
  band({ type: 'high-pass', frequencyHz, order, channel });
const lowPass = (frequencyHz: number, order: number) => band({ type: 'low-pass', frequencyHz, order });
const lowShelf = (frequencyHz: number, gainDb: number, channel: BandSettings['channel'] = 'stereo') =>
  band({ type: 'low-shelf', frequencyHz, gainDb, channel });
const highShelf = (frequencyHz: number, gainDb: number) => band({ type: 'high-shelf', frequencyHz, gainDb });
const bell = (frequencyHz: number, gainDb: number, q: number) => band({ type: 'bell', frequencyHz, gainDb, q });
/** All of the sides down: a shelf that begins below everything. */
const narrow = (gainDb: number) => band({ type: 'high-shelf', frequencyHz: 10, gainDb, channel: 'side' });

/** Loudness levels that a mix is made at and heard at when it is very quiet, phon. */
export const MIXED_AT_PHON = 80;
export const QUIET_PHON = 40;

const BOTH = [1, 1] as const;

/** The places; their figures are common practice where no source is named. */
export const PLACES: readonly Place[] = [
  {
    id: 'small-speakers',
    name: 'Small speakers',
    about: 'Next to nothing below 200 Hz, soft above 12 kHz, close together. Common practice.',
    bands: [highPass(200, 4), bell(1500, 2, 0.8), lowPass(12000, 2), narrow(-9)],
    ears: BOTH,
  },
  {
    id: 'laptop',
    name: 'Laptop',
    about: 'Nothing below 300 Hz, a hump at 1 kHz, thin above 9 kHz. Common practice.',
    bands: [highPass(300, 4), bell(1000, 4, 0.9), lowPass(9000, 2), narrow(-6)],
    ears: BOTH,
  },
  {
    id: 'telephone',
    name: 'Telephone',
    about: '300 to 3400 Hz, in mono: the band of a telephone line, ITU-T G.712.',
    bands: [
      highPass(300, 6),
      lowPass(3400, 8),
      band({ type: 'high-shelf', frequencyHz: 10, gainDb: -36, channel: 'side' }),
    ],
    ears: BOTH,
  },
  {
    id: 'car',
    name: 'Car',
    about: 'A small cabin lifts the lows, seats take highs, the middle is near: common practice.',
    bands: [lowShelf(90, 6), bell(250, 3, 1.2), bell(2500, -2, 1), highShelf(7000, -4), narrow(-3)],
    ears: BOTH,
  },
  {
    id: 'loud-room',
    name: 'Loud room, strong bass',
    about: 'Bass far up and in mono, highs soaked up by people: common practice.',
    bands: [lowShelf(100, 9), highPass(120, 2, 'side'), highShelf(5000, -5)],
    ears: BOTH,
  },
  {
    id: 'headphones',
    name: 'Headphones with crossfeed',
    about:
      'Each ear hears some of the other side below 700 Hz, as from loudspeakers: without the delay around the head.',
    bands: [lowShelf(700, -6, 'side')],
    ears: BOTH,
  },
  {
    id: 'one-ear',
    name: 'One ear',
    about: 'Only the left side reaches anyone: one earphone of two.',
    bands: [],
    ears: [1, 0],
  },
  {
    id: 'very-quiet',
    name: 'Very quiet',
    about: `What changes for the ear from ${MIXED_AT_PHON} to ${QUIET_PHON} phon: ISO 226:2023, by four filters, within 1 dB from 31 Hz to 10 kHz.`,
    bands: [lowShelf(74, -9.3), lowShelf(310, -8.2), bell(3500, 2.4, 0.41), highShelf(11800, -7)],
    ears: BOTH,
  },
];

export const placeOf = (id: PlaceId): Place => PLACES.find((place) => place.id === id)!;

/** What a place does to the middle of the mix, dB at some frequencies. */
export function placeResponseDb({ bands }: Place, frequenciesHz: readonly number[], rateHz: number): number[] {
  const sum = frequenciesHz.map(() => 0);
  for (const band of bands) {
    if (band.channel !== 'stereo') continue;
    magnitudesDb(designBand(band, rateHz), frequenciesHz, rateHz).forEach((db, i) => (sum[i] += db));
  }
  return sum;
}

/** What lies this far below the best of a place is not heard there, dB. */
const UNHEARD_BELOW_DB = 24;

/** Power gains of a place at some frequencies, 0 where nothing is heard of the middle of the mix. */
export function placePowers(place: Place, frequenciesHz: readonly number[], rateHz: number): number[] {
  const db = placeResponseDb(place, frequenciesHz, rateHz);
  const edge = Math.max(...db) - UNHEARD_BELOW_DB;
  return db.map((value) => (value < edge ? 0 : 10 ** (value / 10)));
}

/** The ranges that are not heard in a place, from 20 Hz to 20 kHz. */
export function unheardRanges(place: Place, rateHz: number): { lowHz: number; highHz: number }[] {
  const hz = Array.from({ length: 241 }, (_, i) => 20 * 1000 ** (i / 240));
  const db = placeResponseDb(place, hz, rateHz);
  const edge = Math.max(...db) - UNHEARD_BELOW_DB;
  const first = db.findIndex((value) => value >= edge);
  const last = db.findLastIndex((value) => value >= edge);
  return [
    { lowHz: 20, highHz: hz[first] },
    { lowHz: hz[last], highHz: 20000 },
  ].filter(({ lowHz, highHz }) => highHz > lowHz);
}
