import { asLeft, isLeft } from './left-overlaps';
import type { Overlap } from './overlaps';

const overlap: Overlap = {
  quieterId: 'v',
  louderId: 'c',
  lowHz: 200,
  highHz: 400,
  betterEarDb: 0,
  lostShare: 0.2,
  weight: 0.1,
  passages: [],
};

test('what was left stays left when it is found again a little wider, or the other way round', () => {
  const left = [asLeft(overlap)];
  expect(isLeft(overlap, left)).toBe(true);
  expect(isLeft({ ...overlap, lowHz: 180, highHz: 450 }, left)).toBe(true);
  expect(isLeft({ ...overlap, quieterId: 'c', louderId: 'v' }, left)).toBe(true);
});

test('another range or another pair is not left', () => {
  const left = [asLeft(overlap)];
  expect(isLeft({ ...overlap, lowHz: 350, highHz: 1400 }, left)).toBe(false);
  expect(isLeft({ ...overlap, louderId: 'x' }, left)).toBe(false);
  expect(isLeft(overlap, [])).toBe(false);
});
