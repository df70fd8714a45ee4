import { applyEdit, EMPTY_HISTORY, newId, remember, step, type Edit, type Song, type UndoHistory } from '@/core/song';

/**
 * The song in this window as plain data: what the server has confirmed, the edits that are still on their way, previews of what goes
 * on, and what is shown: all of them together. Pure functions, so that two windows can be tested as two values.
 */
export interface PendingEdit {
  id: string;
  edit: Edit;
}

/** Whose preview it is. */
export interface PreviewOwner {
  /** Hears that the preview was ended by something else: what it is about is gone. */
  onLost?: () => void;
}

/** An edit that is shown and heard before it is kept, and whose it is. */
export interface PreviewedEdit {
  owner: PreviewOwner;
  edit: Edit;
}

export interface SongState {
  confirmed: Song;
  revision: number;
  pending: readonly PendingEdit[];
  previews: readonly PreviewedEdit[];
  /** The confirmed song with the pending edits: what a gesture begins with. */
  settled: Song;
  /** What is shown and heard: the settled song with the previews. */
  song: Song;
  history: UndoHistory;
}

/** @param pending edits that the server has not acknowledged, from an earlier visit */
export function openSongState(song: Song, revision: number, pending: readonly PendingEdit[] = []): SongState {
  const state = { confirmed: song, revision, pending, previews: [], settled: song, song, history: EMPTY_HISTORY };
  return pending.length > 0 ? rebuilt(state) : state;
}

function attempted(song: Song, edit: Edit): Song | null {
  try {
    return applyEdit(song, edit);
  } catch {
    return null;
  }
}

/** A preview that can no longer be applied is dropped; its owner must be told. */
function withPreviews(state: SongState): SongState {
  let song = state.settled;
  const previews = state.previews.filter(({ edit }) => {
    const next = attempted(song, edit);
    if (next) song = next;
    return next !== null;
  });
  return { ...state, song, previews: previews.length === state.previews.length ? state.previews : previews };
}

/** Applies what can be applied: a pending edit that no longer can is passed over here; the server will refuse it and say so. */
function rebuilt(state: SongState): SongState {
  const settled = state.pending.reduce((song, { edit }) => attempted(song, edit) ?? song, state.confirmed);
  return withPreviews({ ...state, settled });
}

/** Shows what its owner tries, beside what others try; null takes it back. @throws OrvidError when it cannot be done */
export function previewEdit(state: SongState, owner: PreviewOwner, edit: Edit | null): SongState {
  const at = state.previews.findIndex((preview) => preview.owner === owner);
  if (edit === null && at < 0) return state;
  const others = state.previews.filter((preview) => preview.owner !== owner);
  const previews =
    edit === null ? others : at < 0 ? [...others, { owner, edit }] : state.previews.with(at, { owner, edit });
  const song = previews.reduce((current, preview) => applyEdit(current, preview.edit), state.settled);
  return { ...state, previews, song };
}

/** Puts an edit of this window on its way. */
function submitted(state: SongState, edit: Edit, history: UndoHistory): SongState {
  const settled = applyEdit(state.settled, edit);
  return withPreviews({ ...state, settled, history, pending: [...state.pending, { id: newId(), edit }] });
}

/**
 * Does an edit of this window's own and remembers how to undo it.
 * @param mergeKey see `remember`
 * @throws OrvidError when it cannot be done
 */
export function doEdit(state: SongState, edit: Edit, label: string, mergeKey?: string): SongState {
  return submitted(state, edit, remember(state.history, state.settled, edit, label, mergeKey));
}

/** Keeps what an owner tries as an edit: its preview ends with it. @throws OrvidError when it cannot be done */
export function keepPreview(state: SongState, owner: PreviewOwner, label: string): SongState {
  const kept = state.previews.find((preview) => preview.owner === owner);
  if (!kept) return state;
  return doEdit({ ...state, previews: state.previews.filter((preview) => preview !== kept) }, kept.edit, label);
}

/** Undoes or redoes; the state itself when there is nothing to do. @throws OrvidError when another window removed what it is about */
export function stepHistory(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  return taken ? submitted(state, taken.edit, taken.history) : state;
}

/** Drops the step that can no longer be taken. */
export function dropStep(state: SongState, direction: 'undo' | 'redo'): SongState {
  const taken = step(state.history, direction);
  if (!taken) return state;
  const { done, undone } = state.history;
  const history = direction === 'undo' ? { ...taken.history, undone } : { ...taken.history, done };
  return { ...state, history };
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
      state: state.pending.some((waiting) => waiting.id === edit.id) ? forgetPending(state, edit.id) : state,
      gap: false,
    };
  }
  if (edit.revision !== state.revision + 1) return { state, gap: true };
  const pending = state.pending.filter((waiting) => waiting.id !== edit.id);
  const confirmed = applyEdit(state.confirmed, edit.edit);
  const isOwnNext = state.pending[0]?.id === edit.id;
  // One's own edit in its turn changes nothing that is shown: the same objects stay, and nothing is drawn anew.
  if (isOwnNext) return { state: { ...state, confirmed, revision: edit.revision, pending }, gap: false };
  return { state: rebuilt({ ...state, confirmed, revision: edit.revision, pending }), gap: false };
}

/** Forgets an edit that was on its way: the server refused it, or the confirmed song holds it. */
export function forgetPending(state: SongState, id: string): SongState {
  return rebuilt({ ...state, pending: state.pending.filter((waiting) => waiting.id !== id) });
}

/** Takes the whole song as the server has it; edits that it has not seen stay on their way. */
export function rebase(state: SongState, song: Song, revision: number): SongState {
  return revision < state.revision ? state : rebuilt({ ...state, confirmed: song, revision });
}
