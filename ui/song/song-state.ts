import { applyEdit, EMPTY_HISTORY, newId, remember, step, type Edit, type Song, type UndoHistory } from '@/core/song';

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
  /** The confirmed song with the pending edits: what a gesture begins with. */
  settled: Song;
  /** What is shown and heard: the settled song with the preview. */
  song: Song;
  history: UndoHistory;
}

export function openSongState(song: Song, revision: number): SongState {
  return { confirmed: song, revision, pending: [], preview: null, settled: song, song, history: EMPTY_HISTORY };
}

/** Applies what can be applied: an edit that no longer can is passed over here; the server will refuse it and say so. */
function withEdits(song: Song, edits: readonly Edit[]): Song {
  return edits.reduce((current, edit) => {
    try {
      return applyEdit(current, edit);
    } catch {
      return current;
    }
  }, song);
}

function rebuilt(state: SongState): SongState {
  const settled = withEdits(
    state.confirmed,
    state.pending.map(({ edit }) => edit),
  );
  return { ...state, settled, song: withEdits(settled, state.preview ? [state.preview] : []) };
}

/** Shows what a gesture would do; null takes it back. @throws OrvidError when it cannot be done */
export function previewEdit(state: SongState, preview: Edit | null): SongState {
  return { ...state, preview, song: preview ? applyEdit(state.settled, preview) : state.settled };
}

/** Puts an edit of this window on its way; a preview ends with it. */
function submitted(state: SongState, edit: Edit, history: UndoHistory): SongState {
  const song = applyEdit(state.settled, edit);
  return { ...state, preview: null, settled: song, song, history, pending: [...state.pending, { id: newId(), edit }] };
}

/**
 * Does an edit of this window's own and remembers how to undo it.
 * @param mergeKey see `remember`
 * @throws OrvidError when it cannot be done
 */
export function doEdit(state: SongState, edit: Edit, label: string, mergeKey?: string): SongState {
  return submitted(state, edit, remember(state.history, state.settled, edit, label, mergeKey));
}

/** Undoes or redoes; the state itself when there is nothing to do. @throws OrvidError when another window removed what it is about */
export function stepHistory(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  return taken ? submitted(state, taken.edit, taken.history) : state;
}

/** Drops the step that can no longer be taken. */
export function dropStep(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  return taken
    ? {
        ...state,
        history:
          direction === 'undo'
            ? { ...taken.history, undone: state.history.undone }
            : { ...taken.history, done: state.history.done },
      }
    : state;
}

/**
 * Takes an edit that the server has put into the journal, this window's own or another's.
 * @returns the next state; `gap` when edits between are missing, so that the song must be asked for again
 */
export function confirmEdit(
  state: SongState,
  edit: { id: string; revision: number; edit: Edit },
): { state: SongState; gap: boolean } {
  if (edit.revision <= state.revision) {
    // Known already, perhaps from the whole song that was loaded after a gap: it is only no longer on its way.
    return {
      state: state.pending.some((one) => one.id === edit.id) ? forgetPending(state, edit.id) : state,
      gap: false,
    };
  }
  if (edit.revision !== state.revision + 1) return { state, gap: true };
  const pending = state.pending.filter((one) => one.id !== edit.id);
  const confirmed = applyEdit(state.confirmed, edit.edit);
  const isOwnNext = state.pending[0]?.id === edit.id;
  // One's own edit in its turn changes nothing that is shown: the same objects stay, and nothing is drawn anew.
  if (isOwnNext) return { state: { ...state, confirmed, revision: edit.revision, pending }, gap: false };
  return { state: rebuilt({ ...state, confirmed, revision: edit.revision, pending }), gap: false };
}

/** Forgets an edit that was on its way: the server refused it, or the confirmed song holds it. */
export function forgetPending(state: SongState, id: string): SongState {
  return rebuilt({ ...state, pending: state.pending.filter((one) => one.id !== id) });
}

/** Takes the whole song as the server has it; edits that it has not seen stay on their way. */
export function rebase(state: SongState, song: Song, revision: number): SongState {
  return revision < state.revision ? state : rebuilt({ ...state, confirmed: song, revision });
}
