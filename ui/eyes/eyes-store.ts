import { create } from 'zustand';
import { describeDifferences } from '@/core/formats';
import { settingsOf, type Settings } from '@/core/song';
import { currentSong } from '../song';

/** Eyes off: no curves, ridges and figures of the sound; kept in the browser. */
const KEY = 'orvid-eyes-off';

interface EyesStore {
  isOff: boolean;
  /** The song when the eyes went off. */
  since: Settings | null;
  /** What was changed in the meantime, in words; null when it has been read. */
  changes: readonly string[] | null;
  toggle: () => void;
  restore: () => void;
  read: () => void;
}

export const useEyes = create<EyesStore>((set, get) => ({
  isOff: false,
  since: null,
  changes: null,
  toggle: () => {
    const { isOff, since } = get();
    const now = settingsOf(currentSong());
    localStorage.setItem(KEY, String(!isOff));
    if (!isOff) {
      set({ isOff: true, since: now, changes: null });
      return;
    }
    const changes = since ? describeDifferences(since, now) : [];
    set({ isOff: false, since: null, changes: changes.length > 0 ? changes : null });
  },
  restore: () => {
    if (localStorage.getItem(KEY) === 'true') set({ isOff: true, since: settingsOf(currentSong()), changes: null });
  },
  read: () => set({ changes: null }),
}));
