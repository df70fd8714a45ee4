import { applyEdit, emptySong, newTrack, type Song } from '@/core/song';
import { changedStrips } from './changed-strips';

const song: Song = {
  ...emptySong('Four'),
  tracks: ['a', 'b', 'c'].map((id) =>
    newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 }),
  ),
};
const changed = (now: Song, before: Song) => [...changedStrips(now, before)].sort();

test('strips that were changed, added or taken away differ, whatever was asked before', () => {
  const louder = applyEdit(song, { kind: 'strip.set', stripId: 'b', changes: { gainDb: 3 } });
  expect(changed(louder, song)).toEqual(['b']);
  expect(changed(song, song)).toEqual([]);
  const fewer = applyEdit(louder, { kind: 'track.remove', trackId: 'a' });
  expect(changed(fewer, louder)).toEqual(['a']);
  expect(changed(louder, fewer)).toEqual(['a']);
  expect(changed(fewer, song)).toEqual(['a', 'b']);
  expect(changed(applyEdit(song, { kind: 'song.set', changes: { title: 'Three' } }), song)).toEqual([]);
});

test('tracks in another order are the same ones', () => {
  expect(changed({ ...song, tracks: song.tracks.toReversed() }, song)).toEqual([]);
});
