import fc from 'fast-check';
import {
  firstEqualizer,
  applyEdit,
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newTrack,
  type Edit,
  type Song,
} from '@/core/song';
import {
  confirmEdit,
  doEdit,
  dropStep,
  forgetPending,
  keepPreview,
  openSongState,
  previewEdit,
  rebase,
  stepHistory,
  type SongState,
} from './song-state';

function base(): Song {
  const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 10 }, { id: 'a', name: 'a', ink: 0 });
  const bands = ['p', 'q'].map((id) => ({ ...newBandSettings('bell', 500), id, letter: id }));
  return { ...emptySong('Base'), tracks: [{ ...track, chain: [{ ...emptyEqualizer('e'), bands }] }] };
}
const setBand = (bandId: string, changes: object): Edit => ({
  kind: 'band.set',
  stripId: 'a',
  equalizerId: 'e',
  bandId,
  changes,
});
const gain = (db: number) => setBand('p', { gainDb: db });
const gainOf = (song: Song, id = 'p') => firstEqualizer(song.tracks[0])!.bands.find((band) => band.id === id)?.gainDb;

test('a preview is shown and leaves no trace; what is kept is one step', () => {
  const owner = {};
  let state = openSongState(base(), 0);
  for (const db of [1, 2, 3]) state = previewEdit(state, owner, gain(db));
  expect(gainOf(state.song)).toBe(3);
  expect(previewEdit(state, owner, null).song).toEqual(state.settled);
  state = keepPreview(state, owner, 'Gain');
  expect([state.pending.length, state.history.done.length, gainOf(state.song)]).toEqual([1, 1, 3]);
  state = stepHistory(state, 'undo');
  expect([state.pending.length, gainOf(state.song)]).toEqual([2, 0]);
  expect(gainOf(stepHistory(state, 'redo').song)).toBe(3);
});

test('previews of several owners stand beside each other and beside edits, and end one by one', () => {
  const [match, drag] = [{}, {}];
  let state = previewEdit(openSongState(base(), 0), match, gain(4));
  state = previewEdit(state, drag, setBand('q', { gainDb: -2 }));
  state = doEdit(state, { kind: 'strip.set', stripId: 'a', changes: { muted: true } }, 'Mute');
  expect([gainOf(state.song), gainOf(state.song, 'q'), state.song.tracks[0].muted]).toEqual([4, -2, true]);
  expect([gainOf(state.settled), gainOf(state.settled, 'q')]).toEqual([0, 0]);
  state = keepPreview(state, drag, 'Gain');
  expect([gainOf(state.settled, 'q'), gainOf(state.song), state.previews.length]).toEqual([-2, 4, 1]);
  expect(gainOf(previewEdit(state, match, null).song)).toBe(0);
});

test('a preview of what another window removes is dropped, and the rest stays', () => {
  const [first, second] = [{}, {}];
  let state = previewEdit(openSongState(base(), 0), first, gain(4));
  state = previewEdit(state, second, setBand('q', { gainDb: -2 }));
  const removal: Edit = { kind: 'band.remove', stripId: 'a', equalizerId: 'e', bandId: 'p' };
  state = confirmEdit(state, { id: 'other', edit: removal, revision: 1 }).state;
  expect(state.previews.map(({ owner }) => owner)).toEqual([second]);
  expect(gainOf(state.song, 'q')).toBe(-2);
});

test('what an earlier visit has left is on its way again, on top of what the server has', () => {
  const state = openSongState(base(), 3, [{ id: 'left', edit: gain(5) }]);
  expect([gainOf(state.song), gainOf(state.confirmed), state.pending.length]).toEqual([5, 0, 1]);
  expect(confirmEdit(state, { id: 'left', edit: gain(5), revision: 4 }).state).toMatchObject({
    pending: [],
    revision: 4,
  });
});

test('one’s own edit, confirmed in its turn, changes no object that is shown', () => {
  const state = doEdit(openSongState(base(), 0), gain(3), 'Gain');
  const [{ id, edit }] = state.pending;
  const next = confirmEdit(state, { id, edit, revision: 1 });
  expect(next.gap).toBe(false);
  expect(next.state.song).toBe(state.song);
  expect(next.state).toMatchObject({ revision: 1, pending: [] });
});

test('another window’s edit goes under one’s own that is on its way: the later in the journal wins', () => {
  let state = doEdit(openSongState(base(), 0), gain(3), 'Gain');
  state = confirmEdit(state, { id: 'other', edit: gain(-9), revision: 1 }).state;
  expect(gainOf(state.song)).toBe(3);
  state = confirmEdit(state, { id: 'other2', edit: setBand('q', { gainDb: 5 }), revision: 2 }).state;
  expect(gainOf(state.song, 'q')).toBe(5);
});

test('a gap is noticed, and the song that is loaded then keeps what is on its way', () => {
  const state = doEdit(openSongState(base(), 0), gain(3), 'Gain');
  expect(confirmEdit(state, { id: 'x', edit: gain(1), revision: 2 })).toEqual({ state, gap: true });
  const loaded = rebase(state, applyEdit(base(), setBand('q', { gainDb: 7 })), 4);
  expect([gainOf(loaded.song), gainOf(loaded.song, 'q'), loaded.revision]).toEqual([3, 7, 4]);
  // The loaded song held this window's own edit: its confirmation comes late and takes it off the way.
  const late = confirmEdit(loaded, { id: state.pending[0].id, edit: gain(3), revision: 3 });
  expect(late).toMatchObject({ gap: false, state: { pending: [], revision: 4 } });
  expect(rebase(loaded, base(), 2)).toBe(loaded);
});

test('a refused edit is taken back, and an undo of what another window removed is dropped', () => {
  let state = doEdit(openSongState(base(), 0), gain(3), 'Gain');
  const refused = forgetPending(state, state.pending[0].id);
  expect(gainOf(refused.song)).toBe(0);
  state = confirmEdit(state, { id: state.pending[0].id, edit: gain(3), revision: 1 }).state;
  state = confirmEdit(state, {
    id: 'other',
    edit: { kind: 'band.remove', stripId: 'a', equalizerId: 'e', bandId: 'p' },
    revision: 2,
  }).state;
  expect(() => stepHistory(state, 'undo')).toThrow('no longer in the song');
  expect(dropStep(state, 'undo').history.done).toEqual([]);
});

/** Two windows and a journal between them; messages arrive when the schedule says. */
test('two windows end at the same song, whatever they do and in whatever order it arrives (seed 31)', () => {
  const removeBand: Edit = { kind: 'band.remove', stripId: 'a', equalizerId: 'e', bandId: 'q' };
  const anEdit = fc.oneof(
    fc.tuple(fc.constantFrom('p', 'q'), fc.integer({ min: -9, max: 9 })).map(([id, db]) => setBand(id, { gainDb: db })),
    fc.constantFrom('One', 'Two').map((title): Edit => ({ kind: 'song.set', changes: { title } })),
    fc.constant(removeBand),
  );
  const step = fc.oneof(
    fc.record({ window: fc.nat(1), edit: anEdit }),
    fc.record({ window: fc.nat(1), undo: fc.constant(true) }),
    fc.record({ send: fc.nat(1) }),
    fc.record({ deliver: fc.nat(1) }),
  );
  fc.assert(
    fc.property(fc.array(step, { maxLength: 40 }), (schedule) => {
      const windows: SongState[] = [openSongState(base(), 0), openSongState(base(), 0)];
      let server = base();
      const journal: { id: string; edit: Edit; revision: number }[] = [];
      const heard = [0, 0];
      const send = (w: number) => {
        const next = windows[w].pending.find(({ id }) => !journal.some((entry) => entry.id === id));
        if (!next) return false;
        try {
          server = applyEdit(server, next.edit);
          journal.push({ ...next, revision: journal.length + 1 });
        } catch {
          windows[w] = forgetPending(windows[w], next.id);
        }
        return true;
      };
      const deliver = (w: number) => {
        if (heard[w] === journal.length) return false;
        const { state, gap } = confirmEdit(windows[w], journal[heard[w]++]);
        expect(gap).toBe(false);
        windows[w] = state;
        return true;
      };
      const attempt = (w: number, change: (state: SongState) => SongState) => {
        try {
          windows[w] = change(windows[w]);
        } catch {
          // It cannot be done any more; the interface says so.
        }
      };
      for (const edit of schedule) {
        if ('edit' in edit) attempt(edit.window, (state) => doEdit(state, edit.edit, 'x'));
        else if ('undo' in edit) attempt(edit.window, (state) => stepHistory(state, 'undo'));
        else if ('send' in edit) send(edit.send);
        else deliver(edit.deliver);
      }
      while ([send(0), send(1), deliver(0), deliver(1)].some(Boolean));
      for (const state of windows) {
        expect(state.song).toEqual(server);
        expect(state).toMatchObject({ revision: journal.length, pending: [] });
      }
    }),
    { seed: 31, numRuns: 300 },
  );
});
