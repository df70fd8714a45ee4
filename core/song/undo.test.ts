import type { Edit } from './edit-schema';
import { applyEdit } from './edits';
import { newBandSettings } from './band';
import { emptySong, newTrack } from './model';
import { EMPTY_HISTORY, remember, rememberElsewhere, step } from './undo';

const title = (text: string): Edit => ({ kind: 'song.set', changes: { title: text } });

test('undo and redo walk through the steps; a new edit forgets what was undone', () => {
  let song = emptySong('0');
  let history = EMPTY_HISTORY;
  for (const text of ['1', '2']) {
    history = remember(history, song, title(text), `to ${text}`);
    song = applyEdit(song, title(text));
  }
  const walk = (direction: 'undo' | 'redo') => {
    const taken = step(history, direction);
    if (!taken) return null;
    history = taken.history;
    song = applyEdit(song, taken.edit);
    return `${taken.label}: ${song.title}`;
  };
  expect([walk('undo'), walk('undo'), walk('undo'), walk('redo'), walk('redo'), walk('redo')]).toEqual([
    'to 2: 1',
    'to 1: 0',
    null,
    'to 1: 1',
    'to 2: 2',
    null,
  ]);
  walk('undo');
  history = remember(history, song, title('3'), 'to 3');
  expect(step(history, 'redo')).toBeNull();
});

test('steps of one key are one step; another key, or an undo between, begins a new one', () => {
  const song = emptySong('0');
  let history = remember(EMPTY_HISTORY, song, title('1'), 'a', 'k');
  history = remember(history, applyEdit(song, title('1')), title('2'), 'a', 'k');
  expect(history.done).toHaveLength(1);
  expect(history.done[0]).toMatchObject({ forward: title('2'), backward: title('0') });
  expect(remember(history, song, title('3'), 'a', 'other').done).toHaveLength(2);
  const undone = step(history, 'undo')!.history;
  expect(remember(undone, song, title('3'), 'a', 'k').undone).toEqual([]);
});

test('joined steps that first make a band and then move it are undone and done again whole', () => {
  const track = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id: 'a', name: 'a', ink: 0 });
  const start = { ...emptySong('0'), tracks: [track] };
  const place = { stripId: 'a', equalizerId: 'a-equalizer' };
  const band = { ...newBandSettings('high-pass', 30), id: 'p', letter: 'A' };
  const edits: Edit[] = [
    { kind: 'band.add', ...place, band, index: 0 },
    { kind: 'band.set', ...place, bandId: 'p', changes: { frequencyHz: 40 } },
    { kind: 'band.set', ...place, bandId: 'p', changes: { frequencyHz: 50, order: 3 } },
  ];
  let [song, history] = [start, EMPTY_HISTORY];
  for (const edit of edits) {
    history = remember(history, song, edit, 'ends', 'k');
    song = applyEdit(song, edit);
  }
  const undone = step(history, 'undo')!;
  expect(applyEdit(song, undone.edit)).toEqual(start);
  expect(applyEdit(start, step(undone.history, 'redo')!.edit)).toEqual(song);
});

test('what came in together is one step, also where something else was done in between', () => {
  const track = (id: string) =>
    newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id, name: id, ink: 0 });
  let [song, history] = [emptySong('0'), EMPTY_HISTORY];
  const arrive = (id: string) => {
    const edit: Edit = { kind: 'track.add', track: track(id), index: song.tracks.length };
    song = applyEdit(song, edit);
    history = rememberElsewhere(history, edit, { kind: 'track.remove', trackId: id }, 'Add recordings', 'drop');
  };
  arrive('a');
  history = remember(history, song, title('1'), 'Rename');
  song = applyEdit(song, title('1'));
  arrive('b');
  expect(history.done).toHaveLength(2);
  for (let i = 0; i < 2; i++) {
    const taken = step(history, 'undo')!;
    [song, history] = [applyEdit(song, taken.edit), taken.history];
  }
  expect([song.title, song.tracks]).toEqual(['0', []]);
  const again = step(history, 'redo')!;
  expect(applyEdit(song, again.edit).tracks.map(({ id }) => id)).toEqual(['a', 'b']);
});

test('the history has an end', () => {
  let history = EMPTY_HISTORY;
  for (let i = 0; i < 520; i++) history = remember(history, emptySong('0'), title(String(i)), 'x');
  expect(history.done).toHaveLength(500);
  expect(history.done[499].forward).toEqual(title('519'));
});
