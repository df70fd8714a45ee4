import { analogMagnitudeDb, designBand, magnitudeDb, prototype } from '@/core/filters';
import {
  BAND_DEFAULTS,
  emptyEqualizer,
  emptySong,
  newTrack,
  OWN_KEY,
  type Band,
  type GivesWay,
  type Song,
} from '@/core/song';
import { compileSong, renderMix, type SampleSource } from '@/core/engine';
import { givingShare } from '.';
import { db, RATE, sine } from './testing/run';

const LENGTH = 3 * RATE;
const givesWay = (changes: Partial<GivesWay> = {}): GivesWay => ({
  amountDb: -12,
  thresholdDb: -30,
  attackMs: 20,
  holdMs: 0,
  releaseMs: 150,
  key: { stripId: 'key', lowHz: null, highHz: null },
  ...changes,
});
const band = (changes: Partial<Band> = {}): Band => ({
  ...BAND_DEFAULTS,
  id: 'b',
  letter: 'A',
  type: 'bell',
  frequencyHz: 1000,
  q: 1,
  givesWay: givesWay(),
  ...changes,
});
const track = (id: string, changes: object = {}) => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  ...changes,
});
const songOf = (band: Band, phase: 'minimum' | 'linear' = 'minimum'): Song => ({
  ...emptySong('Gives way'),
  tracks: [
    track('key', { muted: true }),
    track('sound', { chain: [{ ...emptyEqualizer('e'), phase, bands: [band] }] }),
  ],
});
const played = (samples: Float64Array): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = samples[frame + n] ?? 0;
  },
});

/** A sine through a band while its key goes through steps of level, one a second. @returns its gain, dB, by the envelope of a quadrature pair */
function gainsDb(band: Band, hz: number, keyDb: readonly number[]): (seconds: number) => number {
  const key = Float64Array.from({ length: LENGTH }, (_, n) => 10 ** (keyDb[Math.floor(n / RATE)] / 20));
  const [cos, sin] = [0.25, 0].map((quarter) =>
    Float64Array.from({ length: LENGTH }, (_, n) => 0.1 * Math.sin(2 * Math.PI * ((hz * n) / RATE + quarter))),
  );
  const heard = [cos, sin].map((sound) => {
    const out = new Float64Array(LENGTH);
    for (const { left, frames, frame } of renderMix(compileSong(songOf(band)), ({ id }) =>
      played(id === 'key' ? key : sound),
    ))
      out.set(left.subarray(0, frames), frame);
    return out;
  });
  return (seconds) => {
    const n = Math.round(seconds * RATE);
    return db((Math.hypot(heard[0][n], heard[1][n]) / 0.1) * Math.SQRT2);
  };
}

test('its gain over time is its own plus the amount times how far the key is above, eased: within 0.2 dB', () => {
  const gain = gainsDb(band({ gainDb: 3 }), 1000, [-60, -25, -10]);
  expect(gain(0.9)).toBeCloseTo(3, 1);
  // 5 dB above the threshold: half of the way, by an exponential of 20 ms.
  for (const ms of [5, 10, 20, 40, 80, 500])
    expect(Math.abs(gain(1 + ms / 1000) - (3 - 6 * (1 - Math.exp(-ms / 20))))).toBeLessThan(0.2);
  for (const ms of [10, 20, 60, 900])
    expect(Math.abs(gain(2 + ms / 1000) - (-3 - 6 * (1 - Math.exp(-ms / 20))))).toBeLessThan(0.2);
  const back = gainsDb(band(), 1000, [-10, -60, -60]);
  // The peak of the last millisecond keeps it for that long.
  for (const ms of [50, 150, 400])
    expect(Math.abs(back(1 + ms / 1000) + 12 * Math.exp(-(ms - 1) / 150))).toBeLessThan(0.2);
});

test('it holds before it comes back', () => {
  const gain = gainsDb(band({ givesWay: givesWay({ holdMs: 300 }) }), 1000, [-10, -60, -60]);
  expect(gain(1.29)).toBeCloseTo(-12, 1);
  expect(gain(1.45)).toBeCloseTo(-12 * Math.exp(-1), 0);
});

test.each(['bell', 'low-shelf', 'high-shelf'] as const)(
  'all the way a %s has the curve of a band of that gain',
  (type) => {
    const bell = band({ type, gainDb: -2, q: 0.7071, frequencyHz: 2000, givesWay: givesWay({ amountDb: 9 }) });
    for (const hz of [200, 1500, 2000, 4000, 12000]) {
      const expected = magnitudeDb(designBand({ ...bell, gainDb: 7 }, RATE), hz, RATE);
      expect(Math.abs(gainsDb(bell, hz, [-5, -5, -5])(2.5) - expected)).toBeLessThan(0.05);
      expect(Math.abs(expected - analogMagnitudeDb(prototype({ ...bell, gainDb: 7 }), 2000, hz))).toBeLessThan(1);
    }
  },
);

test('halfway it has the curve of a band of the gain between, within 0.1 dB', () => {
  const bell = band({ givesWay: givesWay({ amountDb: -11 }) });
  for (const hz of [500, 1000, 2000])
    for (const keyDb of [-28.7, -25, -21.3]) {
      const gainDb = -11 * givingShare(keyDb, -30);
      const expected = magnitudeDb(designBand({ ...bell, gainDb }, RATE), hz, RATE);
      expect(Math.abs(gainsDb(bell, hz, [keyDb, keyDb, keyDb])(2.5) - expected)).toBeLessThan(0.1);
    }
});

test('while its key is silent it is the band as it stands, in an equalizer of linear phase too; its own range is a key', () => {
  const still = gainsDb(band({ gainDb: -5 }), 1000, [-90, -90, -90]);
  expect(still(2)).toBeCloseTo(-5, 2);
  const own = band({ givesWay: givesWay({ key: { stripId: OWN_KEY, lowHz: 700, highHz: 1400 } }) });
  const song = songOf(own, 'linear');
  expect(compileSong(song).tracks[1].chain.stages.map(({ kind }) => kind)).toEqual(['convolution', 'processor']);
  const heard = (hz: number) => {
    const out = new Float64Array(LENGTH);
    for (const { left, frames, frame } of renderMix(compileSong(songOf(own)), () => played(sine(hz, 3, 0.5))))
      out.set(left.subarray(0, frames), frame);
    return db(out.subarray(2 * RATE).reduce((most, v) => Math.max(most, Math.abs(v)), 0) / (0.5 * Math.SQRT1_2));
  };
  expect(heard(1000)).toBeCloseTo(-12, 1);
  expect(Math.abs(heard(100))).toBeLessThan(0.1);
});
