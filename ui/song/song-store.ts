import { create } from 'zustand';
import { asOrvidError } from '@/core/errors';
import { applyEdit, type Edit, type Song } from '@/core/song';
import { doEdit, dropStep, openSongState, previewEdit, stepHistory, type SongState } from './song-state';

/** Whether the work is safe. */
export type SavedState = 'saved' | 'saving' | 'unreachable';

/** Something that people should read: what happened, what was kept, what to do. */
export interface Notice {
  id: number;
  tone: 'error' | 'plain';
  text: string;
}

interface SongStore {
  /** Empty while no song is open. */
  songId: string;
  state: SongState;
  saved: SavedState;
  notices: readonly Notice[];
  open: (songId: string, song: Song, revision: number) => void;
  close: () => void;
  /** Replaces the state: for what comes from the server. */
  setState: (change: (state: SongState) => SongState) => void;
  setSaved: (saved: SavedState) => void;
  /** Does an edit; what cannot be done is said and changes nothing. */
  edit: (edit: Edit | null, label: string) => void;
  /** Does an edit that a key makes; presses in quick succession, of edits with the same key, are one step of undo. */
  editByKey: (edit: Edit | null, label: string, mergeKey: string) => void;
  /** Shows an edit while a gesture goes on; null takes it back. */
  preview: (edit: Edit | null) => void;
  /** Lets an edit be heard before it is shown: the next frame shows it. What cannot be done is left to the preview. */
  hearEarly: (edit: Edit | null) => void;
  /** Keeps what is previewed as one step. */
  keepPreview: (label: string) => void;
  undo: () => void;
  redo: () => void;
  tell: (text: string, tone?: Notice['tone']) => void;
  dismiss: (id: number) => void;
}

const EMPTY: Song = {
  format: 'orvid.song',
  version: 1,
  title: 'Song',
  rateHz: 48000,
  parts: [],
  loop: null,
  tracks: [],
  buses: [],
  master: { id: 'master', gainDb: 0, chain: [] },
  passages: [],
  drafts: [],
  leftOverlaps: [],
  landmarks: null,
};
const earListeners = new Set<(song: Song) => void>();
let notices = 0;
/** Presses of a key that are farther apart than this are steps of their own. */
const PRESSES_APART_MS = 800;
let presses = 0;
let lastPress = -Infinity;

export const useSongStore = create<SongStore>((set, get) => {
  const attempt = (change: (state: SongState) => SongState) => {
    try {
      set({ state: change(get().state) });
      return true;
    } catch (thrown) {
      const error = asOrvidError(thrown);
      get().tell([error.message, error.kept].filter(Boolean).join(' '), 'error');
      return false;
    }
  };
  const travel = (direction: 'undo' | 'redo') => () => {
    if (attempt((state) => stepHistory(state, direction))) return;
    set({ state: dropStep(get().state, direction) });
  };
  return {
    songId: '',
    state: openSongState(EMPTY, 0),
    saved: 'saved',
    notices: [],
    open: (songId, song, revision) =>
      set({ songId, state: openSongState(song, revision), saved: 'saved', notices: [] }),
    close: () => set({ songId: '' }),
    setState: (change) => set({ state: change(get().state) }),
    setSaved: (saved) => set({ saved }),
    edit: (edit, label) => {
      if (edit) attempt((state) => doEdit(state, edit, label));
    },
    editByKey: (edit, label, mergeKey) => {
      if (performance.now() - lastPress > PRESSES_APART_MS) presses++;
      lastPress = performance.now();
      if (edit) attempt((state) => doEdit(state, edit, label, `${mergeKey}/${presses}`));
    },
    preview: (edit) => {
      attempt((state) => previewEdit(state, edit));
    },
    hearEarly: (edit) => {
      if (!edit || earListeners.size === 0) return;
      try {
        const song = applyEdit(get().state.settled, edit);
        for (const listener of earListeners) listener(song);
      } catch {
        // The preview says what is wrong.
      }
    },
    keepPreview: (label) => {
      const { preview } = get().state;
      if (preview) attempt((state) => doEdit(state, preview, label));
    },
    undo: travel('undo'),
    redo: travel('redo'),
    tell: (text, tone = 'plain') => set({ notices: [...get().notices.slice(-4), { id: ++notices, tone, text }] }),
    dismiss: (id) => set({ notices: get().notices.filter((notice) => notice.id !== id) }),
  };
});

/** Hears of songs that are to sound before they are shown. @returns what ends it */
export function onEarlySong(listener: (song: Song) => void): () => void {
  earListeners.add(listener);
  return () => earListeners.delete(listener);
}

/** The song as it is shown. */
export const useSong = <T>(select: (song: Song) => T): T => useSongStore((store) => select(store.state.song));
export const currentSong = (): Song => useSongStore.getState().state.song;
