import fc from 'fast-check';
import { clampedSpan, zoomedSpan } from './song-view';

const LENGTH = 300;

test('a span stays within the song, is never shorter than a second, and is nothing by itself where it holds all of it', () => {
  expect(clampedSpan(-5, 20, LENGTH)).toEqual({ from: 0, to: 20 });
  expect(clampedSpan(295, 20, LENGTH)).toEqual({ from: 280, to: 300 });
  expect(clampedSpan(10, 0.2, LENGTH)).toEqual({ from: 10, to: 11 });
  expect(clampedSpan(10, 300, LENGTH)).toBeNull();
  expect(clampedSpan(0, 0.5, 0.4)).toBeNull();
});

test('what is at the pointer stays at it while less or more is shown, as far as the song goes', () => {
  expect(zoomedSpan({ from: 0, to: LENGTH }, 1 / 2, 100, LENGTH)).toEqual({ from: 50, to: 200 });
  expect(zoomedSpan({ from: 50, to: 200 }, 4, 100, LENGTH)).toBeNull();
  const seconds = fc.double({ min: 0, max: LENGTH, noNaN: true });
  fc.assert(
    fc.property(
      seconds,
      fc.double({ min: 1, max: LENGTH, noNaN: true }),
      fc.double({ min: 0, max: 1, noNaN: true }),
      fc.double({ min: 0.05, max: 20, noNaN: true }),
      (begin, width, share, factor) => {
        const before = clampedSpan(begin, width, LENGTH) ?? { from: 0, to: LENGTH };
        const at = before.from + share * (before.to - before.from);
        const after = zoomedSpan(before, factor, at, LENGTH) ?? { from: 0, to: LENGTH };
        expect(after.from).toBeGreaterThanOrEqual(0);
        expect(after.to).toBeLessThanOrEqual(LENGTH + 1e-9);
        expect(after.to - after.from).toBeGreaterThanOrEqual(1 - 1e-9);
        // The pointer is always on what is shown, and where nothing holds it, on the same place of it.
        const place = (at - after.from) / (after.to - after.from);
        expect(place).toBeGreaterThanOrEqual(-1e-9);
        expect(place).toBeLessThanOrEqual(1 + 1e-9);
        if (after.from > 0 && after.to < LENGTH) expect(place).toBeCloseTo(share, 6);
      },
    ),
  );
});
