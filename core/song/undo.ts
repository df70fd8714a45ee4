import { invertEdit, type Edit } from './edits';
import type { Song } from './model';

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
 * @param mergeKey given to edits that set the same fields: then the newest replaces the one before it, and both are undone at once
 */
export function remember(history: UndoHistory, song: Song, edit: Edit, label: string, mergeKey?: string): UndoHistory {
  const last = history.done[history.done.length - 1];
  if (mergeKey !== undefined && last?.mergeKey === mergeKey && history.undone.length === 0) {
    return { done: [...history.done.slice(0, -1), { ...last, forward: edit }], undone: [] };
  }
  const step = { label, forward: edit, backward: invertEdit(song, edit), mergeKey };
  return { done: [...history.done, step].slice(-LONGEST_HISTORY), undone: [] };
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
