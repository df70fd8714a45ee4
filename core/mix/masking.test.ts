import { measureKernel, SPECTRUM_BANDS } from '../measure';
import { erbNumber, lostShare, spread, spreadBlocks, spreadingDb } from './masking';
import { seededRandom } from '../formats';

// B. Glasberg, B. Moore, Hearing Research 47, 1990: 24.7·(4.37·f/1000 + 1) Hz, 132.6 Hz at 1 kHz; 21.4·log10(4.37·f/1000 + 1).
const erbHz = (hz: number) => 24.7 * (0.00437 * hz + 1);
test('the ear’s filters are as wide as published', () => {
  expect(erbHz(1000)).toBeCloseTo(132.6, 1);
  expect(erbNumber(1000)).toBeCloseTo(15.62, 2);
  // The one is the slope of the other.
  for (const hz of [50, 400, 3000, 12000])
    expect((erbNumber(hz * 1.001) - erbNumber(hz)) / (hz * 0.001)).toBeCloseTo(1 / erbHz(hz), 3);
});

// M. Schroeder, B. Atal, J. Hall, JASA 66, 1979: 15.81 + 7.5(x + 0.474) − 17.5·√(1 + (x + 0.474)²) dB; slopes of +25 and −10 dB.
test('spreading falls by 25 dB a unit below and 10 dB above', () => {
  expect(spreadingDb(0)).toBeCloseTo(0, 1);
  expect(spreadingDb(7) - spreadingDb(8)).toBeCloseTo(10, 0);
  expect(spreadingDb(-7) - spreadingDb(-8)).toBeCloseTo(25, 0);
});

test('spreading keeps the power, and reaches further up than down', () => {
  const powers = new Float32Array(2 * SPECTRUM_BANDS);
  powers[SPECTRUM_BANDS + 60] = 1;
  const out = new Float64Array(SPECTRUM_BANDS).fill(0.5);
  spread(powers, SPECTRUM_BANDS, out);
  expect(out.reduce((sum, value) => sum + value, 0)).toBeCloseTo(1, 9);
  expect(out[66]).toBeGreaterThan(out[54]);
  spread(powers, 0, out);
  expect(out.every((value) => value === 0)).toBe(true);
});

test('many blocks are spread as one is, to the last bit', () => {
  expect(measureKernel()).not.toBeNull();
  const random = seededRandom(5);
  const powers = Float32Array.from({ length: 150 * SPECTRUM_BANDS }, () =>
    random() < 0.3 ? 0 : 10 ** (-12 * random()),
  );
  const out = new Float32Array(powers.length);
  spreadBlocks(powers, out);
  const row = new Float64Array(SPECTRUM_BANDS);
  for (let at = 0; at < powers.length; at += SPECTRUM_BANDS) {
    spread(powers, at, row);
    expect(out.subarray(at, at + SPECTRUM_BANDS)).toEqual(Float32Array.from(row));
  }
});

// B. Moore, B. Glasberg, T. Baer, JAES 45, 1997, simplified as the docstring says; the figures are worked out by hand.
test('a masker takes all at its own level, a third 10 dB below, a tenth 20 dB below, nothing far below', () => {
  expect(lostShare(3)).toBe(1);
  expect(lostShare(-10)).toBeCloseTo(1 - (1.1 ** 0.2 - 0.2 ** 0.2 * 0.1 ** 0.3), 9);
  expect(lostShare(-10)).toBeCloseTo(0.34, 2);
  expect(lostShare(-20)).toBeCloseTo(0.11, 2);
  expect(lostShare(-100)).toBeLessThan(0.001);
});
