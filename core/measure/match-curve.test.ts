import { analogMagnitudeDb, prototype } from '../filters';
import { BAND_DEFAULTS, type BandSettings } from '../song';
import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from './bands';
import { matchAtStrength, matchCurve } from './match-curve';

const pink = Float64Array.from({ length: SPECTRUM_BANDS }, () => -40);
const shapedBy = (bands: readonly BandSettings[], gainDb = 0) =>
  Float64Array.from(SPECTRUM_CENTERS_HZ, (hz, i) =>
    bands.reduce((sum, band) => sum + analogMagnitudeDb(prototype(band), band.frequencyHz, hz), pink[i] + gainDb),
  );
const bell = (frequencyHz: number, gainDb: number, q = 1): BandSettings => ({
  ...BAND_DEFAULTS,
  type: 'bell',
  frequencyHz,
  gainDb,
  q,
});
const rmsFrom100To8k = (levels: ArrayLike<number>) => {
  const heard = SPECTRUM_CENTERS_HZ.flatMap((hz, i) => (hz >= 100 && hz <= 8000 ? [levels[i]] : []));
  return Math.sqrt(heard.reduce((sum, db) => sum + db ** 2, 0) / heard.length);
};

test('what a few bands did is found again by a few bands', () => {
  const target = shapedBy([bell(200, 5), bell(1500, -6, 1.5), bell(6000, 3, 0.8)], 2);
  const { bands, outputGainDb } = matchCurve(pink, target);
  expect(bands.length).toBeLessThanOrEqual(6);
  const left = shapedBy(bands, outputGainDb).map((db, i) => db - target[i]);
  expect(rmsFrom100To8k(left)).toBeLessThan(0.3);
});

test('nothing is done where nothing differs, and nothing where nothing sounds', () => {
  expect(matchCurve(pink, pink)).toEqual({ bands: [], outputGainDb: 0 });
  const silence = new Float64Array(SPECTRUM_BANDS).fill(-150);
  const { bands } = matchCurve(silence, silence);
  expect(bands).toEqual([]);
});

test('a level is brought along as a level, not as bands', () => {
  const { bands, outputGainDb } = matchCurve(
    pink,
    pink.map((db) => db + 4),
  );
  expect(bands).toEqual([]);
  expect(outputGainDb).toBe(4);
});

test('half the strength is half the gains', () => {
  const curve = matchCurve(pink, shapedBy([bell(800, 8)]));
  const half = matchAtStrength(curve, 0.5);
  half.bands.forEach((band, i) => expect(band.gainDb).toBeCloseTo(curve.bands[i].gainDb / 2, 0));
  expect(matchAtStrength(curve, 0).bands.every(({ gainDb }) => gainDb === 0)).toBe(true);
});
