import { bandEdgesHz, bandwidthFromQ, bell, qFromBandwidth } from './bell';
import { analogMagnitudeDb } from './analog';

// Audio EQ Cookbook: 1/Q = 2·sinh(ln2/2 · BW); one octave is Q = √2.
test.each([
  [1, Math.SQRT2],
  [1.5, 0.9199],
  [2, 2 / 3],
])('%f octaves are Q %f', (octaves, q) => {
  expect(qFromBandwidth(octaves)).toBeCloseTo(q, 3);
  expect(bandwidthFromQ(qFromBandwidth(octaves))).toBeCloseTo(octaves, 9);
});

test('at its edges a bell has half its gain', () => {
  const { lowHz, highHz } = bandEdgesHz(1000, 2.1);
  for (const hz of [lowHz, highHz]) expect(analogMagnitudeDb(bell(-8, 2.1), 1000, hz)).toBeCloseTo(-4, 6);
  expect(lowHz * highHz).toBeCloseTo(1e6, 3);
});
