import { applyEdit, type Edit } from './edits';
import { emptySong } from './model';
import { EMPTY_HISTORY, remember, step } from './undo';

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

test('the history has an end', () => {
  let history = EMPTY_HISTORY;
  for (let i = 0; i < 520; i++) history = remember(history, emptySong('0'), title(String(i)), 'x');
  expect(history.done).toHaveLength(500);
  expect(history.done[499].forward).toEqual(title('519'));
});
