import { impulseResponse } from '../filters';
import { BAND_DEFAULTS, type BandSettings } from '../song';
import { matchImpulse } from '.';

test('the curve of an impulse response becomes a few bands, and how far they stray is told', () => {
  const made: BandSettings[] = [
    { ...BAND_DEFAULTS, type: 'bell', frequencyHz: 300, gainDb: -6, q: 1 },
    { ...BAND_DEFAULTS, type: 'bell', frequencyHz: 3000, gainDb: 5, q: 0.8 },
    { ...BAND_DEFAULTS, type: 'high-shelf', frequencyHz: 9000, gainDb: 3, q: 0.7 },
  ];
  const impulse = impulseResponse({ phase: 'minimum', outputGainDb: 0, bands: made }, 48000, 16384);
  const { bands, worstErrorDb, meanErrorDb } = matchImpulse(impulse, 48000);
  expect(bands.length).toBeLessThanOrEqual(12);
  expect(worstErrorDb).toBeLessThan(1);
  expect(meanErrorDb).toBeLessThan(0.3);
});

test('a single sample is a flat curve: no bands', () => {
  const impulse = new Float64Array(2048);
  impulse[0] = 0.5;
  const { bands, worstErrorDb, outputGainDb } = matchImpulse(impulse, 44100);
  expect(bands).toEqual([]);
  expect(outputGainDb).toBeCloseTo(-6.02, 1);
  expect(worstErrorDb).toBeLessThan(0.1);
});
