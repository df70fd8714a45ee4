import { applyEdit, BAND_DEFAULTS, emptySong, newBus, newTrack, type Edit, type Song } from '../song';
import { changesBetween, withChanges } from './changes';
import { compileSong } from './compile';

const track = (id: string) =>
  newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 100 }, { id, name: id, ink: 0 });
const makeSong = (): Song => ({
  ...emptySong('Test'),
  tracks: ['a', 'b', 'c'].map(track),
  buses: [newBus({ id: 'x', name: 'x', ink: 0 })],
});
const band = { ...BAND_DEFAULTS, id: 'n', letter: 'A', type: 'bell', frequencyHz: 500, gainDb: 3 } as const;

test.each<[string, Edit, number[], number[]]>([
  ['a band', { kind: 'band.add', stripId: 'b', equalizerId: 'b-equalizer', band, index: 0 }, [1], []],
  ['a fader', { kind: 'strip.set', stripId: 'x', changes: { gainDb: -3 } }, [], [0]],
  ['a solo', { kind: 'strip.set', stripId: 'a', changes: { soloed: true } }, [0, 1, 2], []],
  ['a way', { kind: 'strip.set', stripId: 'c', changes: { outputId: 'x' } }, [2], []],
  ['the master', { kind: 'strip.set', stripId: 'master', changes: { gainDb: 1 } }, [], []],
])('%s: only what changes is handed over, and it makes the same song', (_, edit, tracks, buses) => {
  const song = makeSong();
  const [before, after] = [compileSong(song), compileSong(applyEdit(song, edit))];
  const changes = changesBetween(before, after)!;
  expect(changes.tracks.map(([index]) => index)).toEqual(tracks);
  expect(changes.buses.map(([index]) => index)).toEqual(buses);
  expect(withChanges(before, changes)).toEqual(after);
});

test('a track more, or in another place, is another song', () => {
  const song = makeSong();
  const after = compileSong(applyEdit(song, { kind: 'track.move', trackId: 'a', index: 2 }));
  expect(changesBetween(compileSong(song), after)).toBeNull();
  expect(changesBetween(compileSong(song), compileSong({ ...song, tracks: song.tracks.slice(1) }))).toBeNull();
});
