import { frequencyScale } from '../../kit/axis/scale';
import { placeNames } from './landmark-row';

const landmark = (id: string, lowHz: number, highHz: number, what = 'a name') => ({ id, lowHz, highHz, what });

test('names stand at the middle of their brackets, and one that would run into another is left out', () => {
  const axis = frequencyScale(900);
  const placed = placeNames(
    [
      landmark('a', 20, 40),
      landmark('b', 200, 300),
      landmark('c', 210, 310),
      landmark('d', 10000, 30000, 'a long name'),
    ],
    axis,
  );
  expect(placed.map(({ hasRoom }) => hasRoom)).toEqual([true, true, false, true]);
  expect(placed[1].middle).toBeCloseTo((axis.x(200) + axis.x(300)) / 2, 6);
  // Nothing leaves the field.
  for (const { from, to, middle, what } of placed) {
    expect(from).toBeGreaterThanOrEqual(0);
    expect(to).toBeLessThanOrEqual(900);
    expect(middle - (what.length * 5.4) / 2).toBeGreaterThan(0);
    expect(middle + (what.length * 5.4) / 2).toBeLessThan(900);
  }
});
