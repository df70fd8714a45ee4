import { asOrvidError } from '@/core/errors';
import { checkEdit, type Edit, type Song } from '@/core/song';
import { deskStore } from '../desk/desk';
import { tellError } from '../notices/notices';
import { liveSong, type ShownState } from './live-song';
import { belonging, recordedOf } from './open-passage';
import { isReadOnly } from './visited';
import {
  doEdit,
  dropStep,
  keepPreview,
  previewEdit,
  stepHistory,
  type PreviewOwner,
  type SongState,
} from './song-state';

interface SongStore {
  /** The song as lists and figures show it. */
  state: ShownState;
  /** Does an edit; what cannot be done is said and changes nothing. @returns true when it is done */
  edit: (edit: Edit | null, label: string) => boolean;
  /** Does an edit that a key makes; presses in quick succession, of edits with the same key, are one step of undo. */
  editByKey: (edit: Edit | null, label: string, mergeKey: string) => void;
  /** Shows an edit until its owner keeps it or takes it back; null shows nothing of it. @returns false when it cannot be done, which is said */
  preview: (owner: PreviewOwner, edit: Edit | null, options?: { isDrag: boolean }) => boolean;
  /** Keeps what an owner previews as one step of undo. */
  keepPreview: (owner: PreviewOwner, label: string) => void;
  undo: () => void;
  redo: () => void;
}

/** Presses of a key that are farther apart than this are steps of their own. */
const PRESSES_APART_MS = 800;

export const useSongStore = deskStore<SongStore>((desk) => (set) => {
  const live = liveSong(desk);
  live.read((state) => set({ state }));
  let [presses, lastPress] = [0, -Infinity];

  const attempt = (change: (state: SongState) => SongState, options?: Parameters<typeof live.accept>[1]) => {
    try {
      live.accept(change(live.state), options);
      return true;
    } catch (thrown) {
      tellError(desk, asOrvidError(thrown));
      return false;
    }
  };
  const submit = (edit: Edit, label: string, mergeKey?: string) =>
    !isReadOnly(desk) &&
    attempt((state) => {
      checkEdit(edit);
      const made = belonging(desk, edit);
      return made ? doEdit(state, made, label, mergeKey) : state;
    });
  const takeBack = (owner: PreviewOwner) => live.accept(previewEdit(live.state, owner, null), { endedBy: owner });
  const travel = (direction: 'undo' | 'redo') => () => {
    if (isReadOnly(desk)) return;
    if (!attempt((state) => stepHistory(state, direction))) live.accept(dropStep(live.state, direction));
  };
  return {
    state: { ...live.state, document: live.state.song },
    edit: (edit, label) => edit !== null && submit(edit, label),
    editByKey: (edit, label, mergeKey) => {
      if (performance.now() - lastPress > PRESSES_APART_MS) presses++;
      if (edit) submit(edit, label, `${mergeKey}/${presses}`);
      // The time that the edit itself takes does not count.
      lastPress = performance.now();
    },
    preview: (owner, edit, options) => {
      const isShown =
        edit !== null &&
        !isReadOnly(desk) &&
        attempt((state) => previewEdit(state, owner, belonging(desk, edit, owner)), options);
      if (!isShown) takeBack(owner);
      return isShown || edit === null;
    },
    keepPreview: (owner, label) => {
      const kept = live.state.previews.find((preview) => preview.owner === owner);
      if (!kept || isReadOnly(desk)) return;
      const isKept = attempt(
        (state) => {
          const edit = recordedOf(desk, owner) ?? kept.edit;
          checkEdit(edit);
          return keepPreview(previewEdit(state, owner, edit), owner, label);
        },
        { endedBy: owner },
      );
      if (!isKept) takeBack(owner);
    },
    undo: travel('undo'),
    redo: travel('redo'),
  };
});

/** What of the song a component shows. */
export const useSong = <T>(select: (song: Song) => T): T => useSongStore((store) => select(store.state.song));
