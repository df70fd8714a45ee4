import { nanoid } from 'nanoid';
import { applyEdit, EMPTY_HISTORY, remember, step, type Edit, type Song, type UndoHistory } from '@/core/song';

/**
 * The song in this window as plain data: what the server has confirmed, the edits that are still on their way, a preview of the
 * gesture that goes on, and what is shown: all of them together. Pure functions, so that two windows can be tested as two values.
 */
export interface PendingEdit {
  id: string;
  edit: Edit;
}

export interface SongState {
  confirmed: Song;
  revision: number;
  pending: readonly PendingEdit[];
  preview: Edit | null;
  /** What is shown and heard. */
  song: Song;
  history: UndoHistory;
}

export function openSongState(song: Song, revision: number): SongState {
  return { confirmed: song, revision, pending: [], preview: null, song, history: EMPTY_HISTORY };
}

/** What is shown: pending edits that no longer apply are passed over here; the server will refuse them and say so. */
function shown(confirmed: Song, pending: readonly PendingEdit[], preview: Edit | null): Song {
  const edits = [...pending.map(({ edit }) => edit), ...(preview ? [preview] : [])];
  return edits.reduce((song, edit) => {
    try {
      return applyEdit(song, edit);
    } catch {
      return song;
    }
  }, confirmed);
}

const withShown = (state: Omit<SongState, 'song'>): SongState => ({ ...state, song: shown(state.confirmed, state.pending, state.preview) });

/** The song before the gesture that goes on. */
const settled = (state: SongState) => (state.preview ? shown(state.confirmed, state.pending, null) : state.song);

/** Shows what a gesture would do; null takes it back. @throws OrvidError when it cannot be done */
export function previewEdit(state: SongState, preview: Edit | null): SongState {
  const base = settled(state);
  return { ...state, preview, song: preview ? applyEdit(base, preview) : base };
}

/** Does an edit of this window's own and remembers how to undo it. @throws OrvidError when it cannot be done */
export function doEdit(state: SongState, edit: Edit, label: string): SongState {
  const before = settled(state);
  const song = applyEdit(before, edit);
  const history = remember(state.history, before, edit, label);
  return { ...state, preview: null, song, history, pending: [...state.pending, { id: nanoid(), edit }] };
}

/** Undoes or redoes; the state itself when there is nothing to do. @throws OrvidError when another window removed what it is about */
export function stepHistory(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  if (!taken) return state;
  const song = applyEdit(settled(state), taken.edit);
  return { ...state, preview: null, song, history: taken.history, pending: [...state.pending, { id: nanoid(), edit: taken.edit }] };
}

/** Drops the step that can no longer be taken. */
export function dropStep(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  return taken ? { ...state, history: direction === 'undo' ? { ...taken.history, undone: state.history.undone } : { ...taken.history, done: state.history.done } } : state;
}

/**
 * Takes an edit that the server has put into the journal, this window's own or another's.
 * @returns the next state; `gap` when edits between are missing, so that the song must be asked for again
 */
export function confirmEdit(state: SongState, edit: { id: string; revision: number; edit: Edit }): { state: SongState; gap: boolean } {
  if (edit.revision <= state.revision) return { state, gap: false };
  if (edit.revision !== state.revision + 1) return { state, gap: true };
  const pending = state.pending.filter((one) => one.id !== edit.id);
  const confirmed = applyEdit(state.confirmed, edit.edit);
  const isOwnNext = state.pending[0]?.id === edit.id;
  // One's own edit in its turn changes nothing that is shown: the same objects stay, and nothing is drawn anew.
  if (isOwnNext) return { state: { ...state, confirmed, revision: edit.revision, pending }, gap: false };
  return { state: withShown({ ...state, confirmed, revision: edit.revision, pending }), gap: false };
}

/** Takes back an edit that the server refused. */
export function refuseEdit(state: SongState, id: string): SongState {
  return withShown({ ...state, pending: state.pending.filter((one) => one.id !== id) });
}

/** Takes the whole song as the server has it; edits that it has not seen stay on their way. */
export function rebase(state: SongState, song: Song, revision: number): SongState {
  return revision < state.revision ? state : withShown({ ...state, confirmed: song, revision });
}
