import fc from 'fast-check';
import { BYTE_POWERS } from './band-levels';
import { SPECTRUM_BANDS } from './bands';
import { cutRows, joinRows, partRows, rowsOver, wholeRows, type LevelRows } from './level-rows';
import { integratedLufs, weightedPowers } from './loudness';

const STEP_DB = 10 * Math.log10(BYTE_POWERS[101] / BYTE_POWERS[100]);
const FLAT = new Float64Array(SPECTRUM_BANDS).fill(1);

/** Levels that rise and fall, a byte each. */
const levelsOf = (steps: number, seed = 1) =>
  Uint8Array.from(
    { length: steps * SPECTRUM_BANDS },
    (_, i) => 120 + ((Math.imul(i + 1, 2654435761 + seed) >>> 26) % 40),
  );
const powerOf = (bytes: Uint8Array) => bytes.reduce((sum, byte) => sum + BYTE_POWERS[byte], 0);

test('rows of several steps have the mean power of their steps, whatever is rounded', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 40, max: 90 }),
      fc.constantFrom(2, 4, 8),
      fc.integer({ min: 0, max: 30 }),
      (steps, per, from) => {
        const bytes = levelsOf(steps, steps);
        const rows = cutRows(bytes, { from, to: steps }, per);
        expect(rows).toHaveLength(Math.ceil((steps - from) / per) * SPECTRUM_BANDS);
        const mean = powerOf(bytes.subarray(from * SPECTRUM_BANDS)) / per;
        // Each is rounded by less than what a byte stands for.
        expect(Math.abs(10 * Math.log10(powerOf(rows) / mean))).toBeLessThanOrEqual(STEP_DB);
      },
    ),
  );
});

test('a stretch as it is stored is the same bytes; behind the end of a recording there are no rows', () => {
  const bytes = levelsOf(50);
  expect(cutRows(bytes, { from: 10, to: 20 }, 1)).toEqual(bytes.slice(10 * SPECTRUM_BANDS, 20 * SPECTRUM_BANDS));
  expect(cutRows(bytes, { from: 40, to: 90 }, 1)).toHaveLength(10 * SPECTRUM_BANDS);
  for (const per of [1, 4]) expect(cutRows(bytes, { from: 60, to: 90 }, per)).toHaveLength(0);
});

test('loudness is the same to a few hundredths from a stretch, and to two tenths from rows of 0.4 s', () => {
  const bytes = levelsOf(400);
  const range = { from: 80, to: 240 };
  const lufs = (rows: LevelRows) => integratedLufs(weightedPowers(rows, 2, FLAT, range));
  const whole = lufs(wholeRows(bytes));
  const stretch = { bytes: cutRows(bytes, range, 1), firstStep: 80, endStep: 240, stepsPerRow: 1 };
  expect(lufs(stretch)).toBeCloseTo(whole, 9);
  const coarse = { bytes: cutRows(bytes, { from: 0, to: 400 }, 8), firstStep: 0, endStep: Infinity, stepsPerRow: 8 };
  expect(Math.abs(lufs(coarse) - whole)).toBeLessThan(0.2);
});

test('of several levels of a recording those count that cover most, then the finest', () => {
  const rows = (firstStep: number, endStep: number, stepsPerRow: number): LevelRows => ({
    bytes: new Uint8Array(0),
    firstStep,
    endStep,
    stepsPerRow,
  });
  const coarse = rows(0, Infinity, 8);
  const fine = rows(100, 300, 1);
  expect(rowsOver([coarse, fine], { from: 120, to: 300 })).toBe(fine);
  expect(rowsOver([fine, coarse], { from: 120, to: 301 })).toBe(coarse);
  expect(rowsOver([], { from: 0, to: 1 })).toBeUndefined();
});

test('rows of several recordings come out as they went in, each in memory of its own; what was cut short is noticed', () => {
  fc.assert(
    fc.property(fc.array(fc.uint8Array({ maxLength: 300 }), { minLength: 1, maxLength: 9 }), (rows) => {
      const joined = joinRows(rows);
      const parted = partRows(joined, rows.length);
      expect(parted).toEqual(rows.map((bytes) => Uint8Array.from(bytes)));
      for (const bytes of parted) expect(bytes.buffer.byteLength).toBe(bytes.length);
      expect(() => partRows(joined.subarray(0, joined.length - 1), rows.length)).toThrow(RangeError);
    }),
  );
});
