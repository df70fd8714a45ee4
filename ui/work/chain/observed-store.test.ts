import { wrap } from 'comlink';
import { seededRandom } from '@/core/formats';
import { emptySong, newProcessor, newTrack, type Song } from '@/core/song';
import { useSelection } from '../../window/song/selection';
import { deskWith } from '../../window/testing/open-desk';
import { followProcessor, observedSpan, useObserved } from './observed-store';

jest.mock('comlink', () => ({ ...jest.requireActual<object>('comlink'), wrap: jest.fn() }));
jest.mock('../../window/outbox/link', () => ({ onServerBack: jest.fn(() => () => undefined) }));

const RATE = 48000;
const song = (seconds: number, loop: Song['loop'] = null): Song => ({
  ...emptySong('Observed'),
  rateHz: RATE,
  loop,
  tracks: [
    newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: seconds * RATE }, { id: 'a', name: 'a', ink: 0 }),
  ],
});
const looped = (startSeconds: number, endSeconds: number, enabled = true) => ({ startSeconds, endSeconds, enabled });

test('a short song and a short loop are looked at whole, wherever the song stands', () => {
  expect(observedSpan(song(30), 17)).toEqual({ from: 0, to: 30 });
  expect(observedSpan(song(300, looped(100, 120)), 5)).toEqual({ from: 100, to: 120 });
  // A loop may be longer than what is left of the song, or lie behind it.
  expect(observedSpan(song(110, looped(100, 120)), 5)).toEqual({ from: 100, to: 110 });
  expect(observedSpan(song(90, looped(100, 120)), 5)).toEqual({ from: 90, to: 90 });
});

test('of a long song forty seconds around the playhead are looked at, also while a loop is off', () => {
  expect(observedSpan(song(300), 0)).toEqual({ from: 0, to: 40 });
  expect(observedSpan(song(300, looped(10, 20, false)), 181)).toEqual({ from: 178, to: 218 });
  expect(observedSpan(song(300), 300)).toEqual({ from: 260, to: 300 });
  expect(observedSpan(song(300, looped(100, 200)), 5)).toEqual({ from: 100, to: 140 });
  expect(observedSpan(song(300, looped(100, 200)), 170)).toEqual({ from: 160, to: 200 });
});

test('what is shown stays until the playhead comes to its end, and the next begins a little before', () => {
  const shown = { from: 60, to: 100 };
  for (const at of [60, 75, 97]) expect(observedSpan(song(300), at, shown)).toBe(shown);
  expect(observedSpan(song(300), 97.5, shown)).toEqual({ from: 94.5, to: 134.5 });
  expect(observedSpan(song(300), 59, shown)).toEqual({ from: 56, to: 96 });
  // The song's last stretch has nothing after it.
  const last = { from: 260, to: 300 };
  expect(observedSpan(song(300), 299.9, last)).toBe(last);
  // What is outside of a loop that came on, and a stretch of another length, are left.
  expect(observedSpan(song(300, looped(65, 200)), 70, shown)).toEqual({ from: 67, to: 107 });
  expect(observedSpan(song(300), 70, { from: 65, to: 80 })).toEqual({ from: 67, to: 107 });
});

test('while it plays the same stretch stays shown, wherever it and a loop begin', () => {
  const random = seededRandom(5);
  // The playhead stands at a frame; seconds of it are rounded.
  const upTo = (seconds: number) => Math.round(seconds * RATE * random()) / RATE;
  for (let round = 0; round < 300; round++) {
    const begins = upTo(100);
    const long = song(300, random() < 0.5 ? looped(begins, begins + 41 + upTo(100)) : null);
    const shown = observedSpan(long, upTo(280));
    expect(shown.to - shown.from).toBeCloseTo(40, 6);
    for (const at of [shown.from, shown.from + 36.9 * random(), shown.to - 3.001])
      expect(observedSpan(long, at, shown)).toBe(shown);
  }
});

test('where the worker’s script does not come that is said, until it is there and answers', async () => {
  jest.useFakeTimers();
  const workers: Worker[] = [];
  Object.assign(globalThis, {
    Worker: class {
      constructor() {
        workers.push(this as never);
      }
      terminate() {}
    },
  });
  let answer = (_: null) => {};
  const observe = () => new Promise<null>((resolve) => (answer = resolve));
  jest.mocked(wrap).mockReturnValue({ observe } as never);
  const gated = song(30);
  gated.tracks[0].chain = [newProcessor('gate', 'g')];
  const desk = deskWith(gated);
  useSelection.of(desk).chooseStrip('a');
  useSelection.of(desk).chooseProcessor('g');
  const end = followProcessor(desk);
  await jest.advanceTimersByTimeAsync(200);
  for (const i of [0, 1]) {
    workers[i].onerror!(new Event('error') as ErrorEvent);
    await jest.advanceTimersByTimeAsync(300);
  }
  expect(useObserved.of(desk).problem).toMatch(/could not be had from the server/);
  answer(null);
  await jest.advanceTimersByTimeAsync(0);
  expect(useObserved.of(desk).problem).toBeNull();
  end();
  jest.useRealTimers();
});
