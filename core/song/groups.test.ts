import { applyEdit, invertEdit } from './edits';
import { dissolveGroup, dropGroup, dropTrack, groupsOf, groupTracks, registerRows } from './groups';
import { emptySong, newBus, newTrack } from './model';
import type { Song } from './schema';

const track = (id: string, outputId = 'master') => ({
  ...newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id, name: id, ink: 0 }),
  outputId,
});
const bus = (id: string, outputId = 'master') => ({ ...newBus({ id, name: id, ink: 0 }), outputId });
const song: Song = {
  ...emptySong('Test'),
  tracks: [track('a'), track('b', 'drums'), track('c'), track('d', 'drums'), track('e', 'toms')],
  buses: [bus('drums'), bus('toms', 'drums'), bus('room')],
};
const shown = (song: Song, folded: string[] = []) =>
  registerRows(song, folded).map(({ id, depth }) => `${'.'.repeat(depth)}${id}`);
const row = (song: Song, id: string) => registerRows(song).find((each) => each.id === id)!;

test('a group stands where its first track does, with all its tracks below; empty ones come last, then the master', () =>
  expect(shown(song)).toEqual(['a', 'drums', '.b', '.d', '.toms', '..e', 'c', 'room', 'master']));

test('a folded group hides what is in it, groups too', () =>
  expect(shown(song, ['drums'])).toEqual(['a', 'drums', 'c', 'room', 'master']));

test.each([
  ['on a track of its own group', 'd', 'b', ['a', 'drums', '.d', '.b', '.toms', '..e', 'c', 'room', 'master']],
  ['on a track of another group', 'a', 'd', ['drums', '.b', '.d', '.a', '.toms', '..e', 'c', 'room', 'master']],
  ['on a group', 'c', 'drums', ['a', 'drums', '.c', '.b', '.d', '.toms', '..e', 'room', 'master']],
  ['on an empty group', 'a', 'room', ['drums', '.b', '.d', '.toms', '..e', 'c', 'room', '.a', 'master']],
  ['on the master', 'b', 'master', ['a', 'c', 'drums', '.d', '.toms', '..e', 'b', 'room', 'master']],
])('a track dropped %s', (_, trackId, onto, rows) => {
  const edit = dropTrack(song, trackId, row(song, onto))!;
  expect(shown(applyEdit(song, edit))).toEqual(rows);
  expect(applyEdit(applyEdit(song, edit), invertEdit(song, edit))).toEqual(song);
});

test('a track dropped on itself stays', () => expect(dropTrack(song, 'a', row(song, 'a'))).toBeNull());

test('tracks are grouped, and a group is taken apart with all that was sent to it', () => {
  const grouped = applyEdit(song, groupTracks(song, ['a', 'c'], { id: 'new', name: 'New' })!);
  expect(shown(grouped)).toEqual(['new', '.a', '.c', 'drums', '.b', '.d', '.toms', '..e', 'room', 'master']);
  expect(groupTracks(song, [], { id: 'new', name: 'New' })).toBeNull();
  const sent = applyEdit(song, {
    kind: 'strip.set',
    stripId: 'a',
    changes: { sends: [{ busId: 'drums', gainDb: 0, tap: 'after-fader', enabled: true }] },
  });
  const edit = dissolveGroup(sent, 'drums')!;
  const apart = applyEdit(sent, edit);
  expect(shown(apart)).toEqual(['a', 'b', 'c', 'd', 'toms', '.e', 'room', 'master']);
  expect(apart.tracks[0].sends).toEqual([]);
  expect(applyEdit(apart, invertEdit(sent, edit))).toEqual(sent);
  expect(dissolveGroup(song, 'gone')).toBeNull();
});

test('groups are grouped with what runs through them, and dropped into one another, but not into themselves', () => {
  const edit = groupTracks(song, ['b', 'drums', 'c'], { id: 'new', name: 'New' })!;
  const grouped = applyEdit(song, edit);
  expect(shown(grouped)).toEqual(['a', 'new', '.drums', '..b', '..d', '..toms', '...e', '.c', 'room', 'master']);
  expect(groupsOf(grouped).map(({ bus: { id }, trackIds }) => `${id}: ${trackIds.join(' ')}`)).toEqual([
    'drums: b d e',
    'toms: e',
    'new: b c d e',
  ]);
  expect(applyEdit(grouped, invertEdit(song, edit))).toEqual(song);
  const dropped = applyEdit(song, dropGroup(song, 'toms', row(song, 'a'))!);
  expect(shown(dropped)).toEqual(['a', 'drums', '.b', '.d', 'c', 'toms', '.e', 'room', 'master']);
  expect(shown(applyEdit(dropped, dropGroup(dropped, 'drums', row(dropped, 'toms'))!))).toContain('.drums');
  for (const onto of ['drums', 'toms', 'b', 'e']) expect(dropGroup(song, 'drums', row(song, onto))).toBeNull();
});
