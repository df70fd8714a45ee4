import {
  firstEqualizer,
  applyEdit,
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newTrack,
  type Band,
  type Edit,
  type Song,
} from '@/core/song';
import { frequencyScale } from '../../kit/axis/scale';
import { dragBothEnds, dragInEnd, dragPost, endBand, endsOf, stepBothEnds } from './end-edits';

const axis = frequencyScale(900); // 300 pixels a decade
const ids = { 'high-pass': 'hp', 'low-pass': 'lp' };

function songWith(bands: Partial<Band>[]): Song {
  const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 10 }, { id: 'a', name: 'a', ink: 0 });
  const full = bands.map((band, i): Band => ({
    ...newBandSettings('bell', 500),
    id: `b${i}`,
    letter: String.fromCharCode(65 + i),
    ...band,
  }));
  return { ...emptySong('Test'), tracks: [{ ...track, chain: [{ ...emptyEqualizer('e'), bands: full }] }] };
}
const after = (song: Song, edit: Edit | null) => (edit ? applyEdit(song, edit) : song).tracks[0];
const corners = (song: Song, dx: number, dy: number) => {
  const track = after(song, dragBothEnds(song, song.tracks[0], dx, dy, axis, ids));
  return [endBand(track, 'high-pass')?.frequencyHz, endBand(track, 'low-pass')?.frequencyHz];
};

test('a post is dragged in from the edge, with the slope of a new one', () => {
  const song = songWith([]);
  const track = after(song, dragInEnd(song, song.tracks[0], 'high-pass', 300, axis, 'new'));
  expect(endBand(track, 'high-pass')).toMatchObject({
    id: 'new',
    letter: 'A',
    frequencyHz: 200,
    order: 3,
    type: 'high-pass',
  });
  expect(endBand(track, 'low-pass')).toBeUndefined();
});

test('a post is moved sideways, and its order up and down only beyond a first stretch', () => {
  const band = firstEqualizer(songWith([{ type: 'high-pass', frequencyHz: 100, order: 3 }]).tracks[0])!.bands[0];
  expect(dragPost(band, 300, 8, axis)).toEqual({ frequencyHz: 1000, order: 3 });
  expect(dragPost(band, 0, -40, axis)).toEqual({ frequencyHz: 100, order: 5 });
  expect(dragPost(band, -9000, 0, axis).frequencyHz).toBe(20);
});

const both = songWith([
  { type: 'high-pass', frequencyHz: 100 },
  { type: 'low-pass', frequencyHz: 10000 },
]);

test('both ends: sideways moves both, up opens, down closes', () => {
  expect(corners(both, 0, 0)).toEqual([100, 10000]);
  const [low, high] = corners(both, 90.31, 0);
  expect(low! / 100).toBeCloseTo(2, 2);
  expect(high! / 10000).toBeCloseTo(2, 2);
  expect(corners(both, 0, -30)[0]).toBeLessThan(100);
  expect(corners(both, 0, -30)[1]).toBeGreaterThan(10000);
  expect(corners(both, 0, 30)[0]).toBeGreaterThan(100);
});

test('both ends never cross, and an end that is open stays open until it is reached', () => {
  const [low, high] = corners(both, 0, 2000);
  expect(low).toBeLessThanOrEqual(high!);
  const open = songWith([]);
  expect(corners(open, 0, -50)).toEqual([undefined, undefined]);
  expect(corners(open, 0, 60)).toEqual([expect.any(Number), expect.any(Number)]);
  expect(corners(open, 60, 0)).toEqual([expect.any(Number), undefined]);
});

test('two new posts of one gesture carry two letters', () => {
  const song = songWith([{}]);
  const track = after(song, dragBothEnds(song, song.tracks[0], 0, 60, axis, ids));
  expect(firstEqualizer(track)!.bands.map((band) => band.letter)).toEqual(['A', 'B', 'C']);
});

test('both ends by key: sideways as far as a key moves one post, up opens, down closes', () => {
  const song = songWith([
    { type: 'high-pass', frequencyHz: 100 },
    { type: 'low-pass', frequencyHz: 8000 },
  ]);
  const ends = (axisName: 'x' | 'y', direction: 1 | -1, size: 'fine' | 'plain' | 'coarse') =>
    endsOf(after(song, stepBothEnds(song, song.tracks[0], { axis: axisName, direction }, size, axis, ids)));
  const third = 2 ** (1 / 3);
  expect(ends('x', 1, 'coarse').lowHz).toBeCloseTo(100 * third, 0);
  expect(ends('x', 1, 'coarse').highHz).toBeCloseTo(8000 * third, -1);
  expect(ends('y', -1, 'coarse').lowHz).toBeCloseTo(100 * third, 0);
  expect(ends('y', -1, 'coarse').highHz).toBeCloseTo(8000 / third, -1);
  expect(ends('y', 1, 'plain').lowHz).toBeLessThan(100);
  expect(endsOf(songWith([]).tracks[0])).toEqual({ lowHz: 20, highHz: 20000 });
});
