import { emptySong, type Edit, type Loop, type Song } from '@/core/song';
import { drawLoop, loopPart, moveLoop } from '../../work/transport/loop-edits';
import { addPeaks, mixOutline } from './mix-outline';
import { spanBetween } from './use-strip-pinch';

const song: Song = {
  ...emptySong('Test'),
  parts: [
    { name: 'one', startSeconds: 0 },
    { name: 'two', startSeconds: 10 },
  ],
};
const loop: Loop = { startSeconds: 4, endSeconds: 8, enabled: true };
const LENGTH = 20;
const loopOf = (edit: Edit | null) => (edit?.kind === 'song.set' ? edit.changes.loop : null);

test('the loop is moved whole or by an end, within the song', () => {
  expect(loopOf(moveLoop(song, loop, 'whole', 3, LENGTH, 0))).toMatchObject({ startSeconds: 7, endSeconds: 11 });
  expect(loopOf(moveLoop(song, loop, 'whole', 99, LENGTH, 0))).toMatchObject({ startSeconds: 16, endSeconds: 20 });
  expect(loopOf(moveLoop(song, loop, 'start', 99, LENGTH, 0))).toMatchObject({ startSeconds: 7.9 });
  expect(loopOf(moveLoop(song, loop, 'end', -99, LENGTH, 0))).toMatchObject({ endSeconds: 4.1 });
});

test('an end sticks to the beginning of a part that is near', () => {
  expect(loopOf(moveLoop(song, loop, 'end', 1.8, LENGTH, 0.3))).toMatchObject({ endSeconds: 10 });
  expect(loopOf(moveLoop(song, loop, 'end', 1.5, LENGTH, 0.3))).toMatchObject({ endSeconds: 9.5 });
});

test('a loop is drawn in either direction; a click draws none; a part is looped to its end', () => {
  expect(loopOf(drawLoop(song, 7, 3, LENGTH, 0))).toEqual({ startSeconds: 3, endSeconds: 7, enabled: true });
  expect(drawLoop(song, 7, 7.05, LENGTH, 0)).toBeNull();
  expect(loopOf(loopPart(song, 0, LENGTH))).toEqual({ startSeconds: 0, endSeconds: 10, enabled: true });
  expect(loopOf(loopPart(song, 1, LENGTH))).toEqual({ startSeconds: 10, endSeconds: 20, enabled: true });
});

test('the outline adds tracks as sounds that have nothing to do with each other', () => {
  const peaks = (value: number) => ({ framesPerEntry: 100, extremes: [-value, value, -value / 2, value] });
  const outline = mixOutline(
    addPeaks([
      { peaks: peaks(0.3), gain: 1 },
      { peaks: peaks(0.8), gain: 0.5 },
      { peaks: peaks(1), gain: 0 },
    ]),
    0,
    200,
    2,
  );
  expect(Array.from(outline)).toEqual([0.5, 0.5]);
  expect(Array.from(mixOutline([], 0, 200, 3))).toEqual([0, 0, 0]);
});

test('tracks of other lengths and other grids each have their part; a column takes the highest of its entries', () => {
  const short = { framesPerEntry: 10, extremes: [0, 0.3] };
  const long = {
    framesPerEntry: 10,
    extremes: Array.from({ length: 40 }, (_, i) => (i === 0 ? -0.4 : i === 21 ? 1 : 0)),
  };
  const other = { framesPerEntry: 40, firstFrame: 80, extremes: [0, 0, -2, 0] };
  const parts = [short, long, other].map((peaks) => ({ peaks, gain: 1 }));
  // Whichever comes first.
  for (const some of [parts, [...parts].reverse()]) {
    expect(Array.from(mixOutline(addPeaks(some), 0, 200, 5))).toEqual([0.5, 0, 1, 2, 0]);
    expect(mixOutline(addPeaks(some), 0, 200, 20)[10]).toBe(1);
    expect(Array.from(mixOutline(addPeaks(some), 100, 100, 5))).toEqual([1, 2, 2, 0, 0]);
  }
});

test('two fingers keep their times under them, whichever lies first; the same time twice is no stretch', () => {
  const [first, second] = [
    { x: 350, seconds: 10 },
    { x: 650, seconds: 16 },
  ];
  // 50 px a second: 150 px before the first finger are 3 s.
  expect(spanBetween(first, second, 200, 1000)).toEqual({ from: 7, to: 27 });
  expect(spanBetween(second, first, 200, 1000)).toEqual({ from: 7, to: 27 });
  expect(spanBetween(first, { ...first }, 200, 1000)).toBeNull();
  // Drawn together as far as can be: 24 px, not nothing.
  expect(spanBetween(first, { x: 351, seconds: 16 }, 350, 1200)).toEqual({ from: 10, to: 310 });
});
