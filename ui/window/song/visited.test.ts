import { emptySong, newTrack, settingsOf, type Edit } from '@/core/song';
import { deskWith } from '../testing/open-desk';
import { documentOf, songOf } from './live-song';
import { useSongStore } from './song-store';
import { showMoment, songNow } from './visited';

const track = newTrack(
  { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 480000 },
  { id: 't', name: 'Cello', ink: 0 },
);
const level = (gainDb: number): Edit => ({ kind: 'strip.set', stripId: 't', changes: { gainDb } });

test('a moment stands in place of the song and cannot be changed: no edit, preview, kept preview, undo; the song goes on after it', () => {
  const song = { ...emptySong('Test'), tracks: [track] };
  const desk = deskWith(song);
  const store = () => useSongStore.of(desk);
  const owner = {};
  store().edit(level(-6), 'Level');
  store().preview(owner, level(-9));
  showMoment(desk, { revision: 0, at: '2026-11-27T20:15:00Z', name: 'then', settings: settingsOf(song) });
  expect([songOf(desk), documentOf(desk)].map(({ tracks }) => tracks[0].gainDb)).toEqual([0, 0]);
  const before = songNow(desk);
  expect(store().edit(level(3), 'Level')).toBe(false);
  store().keepPreview(owner, 'Level');
  store().undo();
  expect(store().preview({}, level(5))).toBe(false);
  expect(songNow(desk)).toBe(before);
  showMoment(desk, null);
  expect(songOf(desk).tracks[0].gainDb).toBe(-9);
  store().keepPreview(owner, 'Level');
  store().undo();
  expect(songOf(desk).tracks[0].gainDb).toBe(-6);
});
