import { emptyEqualizer, emptySong, MASTER_ID, newBandSettings, newTrack, type Song } from '@/core/song';
import { scoreLines } from './score-lines';
import { barDomain, sortedLines } from './score-page';
import { withProblem } from './use-score';

const band = (id: string, type: 'bell' | 'high-pass' | 'low-pass', frequencyHz: number, enabled = true) => ({
  ...newBandSettings(type, frequencyHz),
  id,
  letter: id,
  enabled,
});
const song: Song = {
  ...emptySong('Test'),
  tracks: ['Viola', 'Drum', 'Bass'].map((name, i) => ({
    ...newTrack({ audioId: 'a'.repeat(64), channels: 1, lengthFrames: 10 }, { id: name, name, ink: i }),
    claims: i === 0 ? [{ lowHz: 300, highHz: 900 }] : [],
    chain: [
      {
        ...emptyEqualizer('e'),
        bands: [band('A', 'high-pass', 40 * (i + 1)), band('B', 'bell', 500), band('C', 'bell', 900, false)],
      },
    ],
  })),
};

test('a line says the claim, the ends and the moves that are on', () => {
  const lines = scoreLines(song);
  expect(lines.map(({ id }) => id)).toEqual(['Viola', 'Drum', 'Bass', MASTER_ID]);
  expect(lines[1]).toMatchObject({ highPassHz: 80, lowPassHz: null, moves: 1, claims: [], measured: null });
  expect(lines[3]).toMatchObject({ name: 'Mix', highPassHz: null, moves: 0 });
});

test('lines are sorted by a column, the mix stays last', () => {
  const lines = scoreLines(song).map((line) => ({
    ...line,
    after:
      line.id === 'Drum'
        ? { clearanceDb: 4, onTop: 0.9, blocks: 9 }
        : line.id === 'Bass'
          ? { clearanceDb: -2, onTop: 0.1, blocks: 9 }
          : null,
  }));
  const order = (...args: [Parameters<typeof sortedLines>[1], boolean]) =>
    sortedLines(lines, ...args).map(({ id }) => id);
  expect(order('name', false)).toEqual(['Bass', 'Drum', 'Viola', MASTER_ID]);
  expect(order('after', true)).toEqual(['Drum', 'Bass', 'Viola', MASTER_ID]);
  expect(order('ends', true)).toEqual(['Bass', 'Drum', 'Viola', MASTER_ID]);
});

test('bars begin at nothing, on whichever side they end', () => {
  expect(barDomain([-1.5, -2.7])).toEqual(['auto', 0]);
  expect(barDomain([3, 1.2])).toEqual([0, 'auto']);
  expect(barDomain([-1, 2])).toEqual(['auto', 'auto']);
});

test('what is wrong is said once, in its longer word', () => {
  const [short, long] = ['Viola is damaged.', 'Viola is damaged. Clearances are estimated.'];
  expect(withProblem(withProblem([], short), long)).toEqual([long]);
  expect(withProblem(withProblem([], long), short)).toEqual([long]);
  expect(withProblem([long], 'Cello is damaged.')).toEqual([long, 'Cello is damaged.']);
});
