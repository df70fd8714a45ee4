import { designEqualizer } from '../filters';
import { BAND_DEFAULTS } from '../song';
import { matchImpulse } from '.';

/** The impulse response of some bands, by their sections. */
function impulseOf(
  bands: { type: 'bell' | 'high-shelf'; frequencyHz: number; gainDb: number; q: number }[],
  rateHz: number,
) {
  const sections = designEqualizer(
    { bands: bands.map((band) => ({ ...BAND_DEFAULTS, ...band })), outputGainDb: 0 },
    rateHz,
  );
  const samples = new Float64Array(16384);
  samples[0] = 1;
  for (const { b0, b1, b2, a1, a2 } of sections) {
    let [s1, s2] = [0, 0];
    for (let n = 0; n < samples.length; n++) {
      const x = samples[n];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      samples[n] = y;
    }
  }
  return samples;
}

test('the curve of an impulse response becomes a few bands, and how far they stray is told', () => {
  const impulse = impulseOf(
    [
      { type: 'bell', frequencyHz: 300, gainDb: -6, q: 1 },
      { type: 'bell', frequencyHz: 3000, gainDb: 5, q: 0.8 },
      { type: 'high-shelf', frequencyHz: 9000, gainDb: 3, q: 0.7 },
    ],
    48000,
  );
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
