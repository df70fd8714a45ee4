import type { Edit } from './edit-schema';
import { invertEdit, joinEdits } from './edits';
import type { Song } from './schema';

/** One step of undo: what the gesture did and what takes it back. */
export interface UndoStep {
  label: string;
  forward: Edit;
  backward: Edit;
  /** Steps in a row with the same key are one step: repeated presses of a key. */
  mergeKey?: string;
}

/** Undo and redo as plain data. The newest step is last. */
export interface UndoHistory {
  done: readonly UndoStep[];
  undone: readonly UndoStep[];
}

export const EMPTY_HISTORY: UndoHistory = { done: [], undone: [] };
const LONGEST_HISTORY = 500;

/**
 * The history after an edit of one's own.
 * @param song before the edit
 * @param mergeKey given to edits that belong together: those with the same key in a row are done and undone at once
 */
export function remember(history: UndoHistory, song: Song, edit: Edit, label: string, mergeKey?: string): UndoHistory {
  const last = history.done[history.done.length - 1];
  if (mergeKey !== undefined && last?.mergeKey === mergeKey && history.undone.length === 0) {
    const forward = joinEdits(last.forward, edit);
    const backward = joinEdits(invertEdit(song, edit), last.backward);
    return { done: [...history.done.slice(0, -1), { ...last, forward, backward }], undone: [] };
  }
  const step = { label, forward: edit, backward: invertEdit(song, edit), mergeKey };
  return { done: [...history.done, step].slice(-LONGEST_HISTORY), undone: [] };
}

/**
 * The history after something that was asked for here and done elsewhere: files that came in as tracks. What belongs together is one step,
 * wherever in the history it stands; what was undone can still be done again.
 * @param edit as it was done
 * @param backward what takes it back
 */
export function rememberElsewhere(
  history: UndoHistory,
  edit: Edit,
  backward: Edit,
  label: string,
  mergeKey: string,
): UndoHistory {
  const at = history.done.findIndex((step) => step.mergeKey === mergeKey);
  if (at < 0)
    return {
      ...history,
      done: [...history.done, { label, forward: edit, backward, mergeKey }].slice(-LONGEST_HISTORY),
    };
  const known = history.done[at];
  const step = { ...known, forward: joinEdits(known.forward, edit), backward: joinEdits(backward, known.backward) };
  return { ...history, done: history.done.with(at, step) };
}

/**
 * Takes the newest step back, or does the newest undone one again.
 * @returns the edit to apply and the history after it; null when there is nothing
 */
export function step(
  history: UndoHistory,
  direction: 'undo' | 'redo',
): { edit: Edit; label: string; history: UndoHistory } | null {
  const from = direction === 'undo' ? history.done : history.undone;
  const last = from[from.length - 1];
  if (!last) return null;
  const rest = from.slice(0, -1);
  return direction === 'undo'
    ? { edit: last.backward, label: last.label, history: { done: rest, undone: [...history.undone, last] } }
    : { edit: last.forward, label: last.label, history: { done: [...history.done, last], undone: rest } };
}
