import { firstEqualizer, emptySong, newBandSettings, newTrack, type Band, type Edit, type Song } from '@/core/song';
import { noticesOf } from '../notices/notices';
import { liveSong, songOf } from '../song/live-song';
import { confirmEdit } from '../song/song-state';
import { useSelection } from '../song/selection';
import { useSongStore } from '../song/song-store';
import { useListening } from '../sound/listening';
import { deskWith } from '../testing/open-desk';
import { useMeasuredParts } from '../sound/measured-parts';
import { Desk, deskStore } from './desk';

const band: Band = { ...newBandSettings('bell', 500), id: 'p', letter: 'A' };
const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id: 'a', name: 'a', ink: 0 });
const song = (title: string): Song => ({
  ...emptySong(title),
  tracks: [{ ...track, chain: [{ ...firstEqualizer(track)!, bands: [band] }] }],
});
const gain = (gainDb: number): Edit => ({
  kind: 'band.set',
  stripId: 'a',
  equalizerId: 'a-equalizer',
  bandId: 'p',
  changes: { gainDb },
});
const gainOf = (desk: Desk) => firstEqualizer(songOf(desk).tracks[0])!.bands[0]?.gainDb;
const said = (desk: Desk) => noticesOf(desk).visibleToasts.map(({ content }) => content.text);

test('two songs in one page have nothing in common', () => {
  const [first, second] = [deskWith(song('One'), 'one'), deskWith(song('Other'), 'other')];
  useSongStore.of(first).edit(gain(5), 'Gain');
  useListening.of(first).setEarshot({ stripId: 'a', lowHz: 100, highHz: 200 });
  useSelection.of(first).chooseStrip('a');
  useMeasuredParts.api(first).setState({ measuring: 'master' });
  expect([gainOf(first), gainOf(second)]).toEqual([5, 0]);
  expect(useListening.of(second).earshot).toBeNull();
  expect(useSelection.of(second).stripId).toBe('master');
  expect(useMeasuredParts.of(second).measuring).toBeNull();
  useSongStore.of(second).undo();
  expect(gainOf(first)).toBe(5);
  useSongStore.of(first).undo();
  expect(gainOf(first)).toBe(0);
});

test('a part is made once for each desk, and what was begun ends with it, the last first', () => {
  const ended: string[] = [];
  const store = deskStore<{ name: string }>((desk) => () => {
    desk.onEnd(() => ended.push(`store of ${desk.songId}`));
    return { name: desk.songId };
  });
  const [first, second] = [new Desk('one'), new Desk('other')];
  expect([store.of(first).name, store.of(second).name]).toEqual(['one', 'other']);
  expect(store.api(first)).toBe(store.api(first));
  first.onEnd(() => ended.push('sound'));
  first.end();
  first.end();
  expect(ended).toEqual(['sound', 'store of one']);
});

test('a preview belongs to its owner: an edit beside it leaves it, and its end is told', () => {
  const desk = deskWith(song('Previews'));
  const lost: string[] = [];
  const match = { onLost: () => lost.push('match') };
  const { preview, edit, keepPreview } = useSongStore.of(desk);
  preview(match, gain(4));
  edit({ kind: 'strip.set', stripId: 'a', changes: { muted: true } }, 'Mute');
  expect([gainOf(desk), songOf(desk).tracks[0].muted]).toEqual([4, true]);
  const drag = {};
  preview(drag, { kind: 'strip.set', stripId: 'a', changes: { gainDb: -3 } });
  keepPreview(drag, 'Level');
  expect([gainOf(desk), songOf(desk).tracks[0].gainDb, lost]).toEqual([4, -3, []]);
  // Another window removes what it is about.
  const removal: Edit = { kind: 'band.remove', stripId: 'a', equalizerId: 'a-equalizer', bandId: 'p' };
  const live = liveSong(desk);
  live.accept(confirmEdit(live.state, { id: 'other', edit: removal, revision: 1 }).state);
  expect(lost).toEqual(['match']);
  expect(live.state.previews).toEqual([]);
});

test('in the middle of a drag the sound hears every state at once, lists and figures a few times a second', () => {
  jest.useFakeTimers();
  const desk = deskWith(song('Drag'));
  const heard: number[] = [];
  const shown: number[] = [];
  liveSong(desk).follow((now) => heard.push(firstEqualizer(now.tracks[0])!.bands[0].gainDb));
  useSongStore.api(desk).subscribe(({ state }) => shown.push(firstEqualizer(state.song.tracks[0])!.bands[0].gainDb));
  const owner = {};
  const { preview, keepPreview } = useSongStore.of(desk);
  for (let db = 1; db <= 10; db++) {
    preview(owner, gain(db), { isDrag: true });
    jest.advanceTimersByTime(16);
  }
  expect(heard).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
  expect(shown.length).toBeLessThanOrEqual(2);
  keepPreview(owner, 'Gain');
  expect(shown.at(-1)).toBe(10);
  jest.useRealTimers();
});

test('an edit that no song could take is refused before it is applied, in words', () => {
  const desk = deskWith(song('Checked'));
  expect(useSongStore.of(desk).edit({ kind: 'song.set', changes: { title: '' } }, 'Rename')).toBe(false);
  expect(songOf(desk).title).toBe('Checked');
  expect(liveSong(desk).state.pending).toEqual([]);
  expect(said(desk)[0]).toMatch(/title: a name needs at least one character/);
});

test('what can no longer be previewed is said once, without an id', () => {
  const desk = deskWith(song('Gone'));
  const owner = {};
  const { preview } = useSongStore.of(desk);
  const of = (bandId: string): Edit => ({ ...gain(1), bandId }) as Edit;
  for (let i = 0; i < 5; i++) expect(preview(owner, of('x7Kq2'))).toBe(false);
  expect(said(desk)).toEqual(['This band is no longer in the song. The rest of the song is as it was.']);
});
