import { describeSettings } from '@/core/passages';
import { settingsOf, type Settings } from '@/core/song';
import { useEyesOff } from '../../kit/eyes/eyes-off';
import { deskStore } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';

/** What is changed in a song while the eyes are off. */
interface EyesStore {
  /** The song when the eyes went off. */
  since: Settings | null;
  /** What was changed in the meantime, in words; null when it has been read. */
  changes: readonly string[] | null;
  toggle: () => void;
  read: () => void;
}

export const useEyes = deskStore<EyesStore>((desk) => (set, get) => ({
  // Off already when the song was opened: what is changed is counted from there.
  since: useEyesOff.getState().isOff ? settingsOf(songOf(desk)) : null,
  changes: null,
  toggle: () => {
    const isOff = !useEyesOff.getState().isOff;
    const now = settingsOf(songOf(desk));
    useEyesOff.getState().set(isOff);
    if (isOff) {
      set({ since: now, changes: null });
      return;
    }
    const { since } = get();
    const changes = since ? describeSettings(since, now) : [];
    set({ since: null, changes: changes.length > 0 ? changes : null });
  },
  read: () => set({ changes: null }),
}));
