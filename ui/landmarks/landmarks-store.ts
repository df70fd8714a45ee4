import { create } from 'zustand';
import { COMMON_LANDMARKS, landmarksFor, type Landmark, type Strip } from '@/core/song';
import { currentSong, useChosenStrip, useSong, useSongStore } from '../song';

/** Whether landmarks are shown on the ruler; kept in the browser. */
const KEY = 'orvid-landmarks';

interface LandmarksStore {
  isShown: boolean;
  show: (isShown: boolean) => void;
  restore: () => void;
}

export const useLandmarks = create<LandmarksStore>((set) => ({
  isShown: true,
  show: (isShown) => {
    localStorage.setItem(KEY, String(isShown));
    set({ isShown });
  },
  restore: () => {
    const stored = localStorage.getItem(KEY);
    if (stored) set({ isShown: stored === 'true' });
  },
}));

const partOf = (strip: Strip) => ('part' in strip ? strip.part : '');

/** The landmarks of the chosen track's part; none for a bus or the master. */
export function useChosenLandmarks(): Landmark[] {
  const strip = useChosenStrip();
  const own = useSong((song) => song.landmarks);
  return 'part' in strip ? landmarksFor(own ?? COMMON_LANDMARKS, partOf(strip)) : [];
}

/** Changes the song's own list of landmarks, which begins as the common one. */
export function changeLandmarks(change: (landmarks: readonly Landmark[]) => Landmark[], label: string): void {
  const landmarks = change(currentSong().landmarks ?? COMMON_LANDMARKS);
  useSongStore.getState().edit({ kind: 'song.set', changes: { landmarks } }, label);
}

/** Back to the common list. */
export const forgetOwnLandmarks = () =>
  useSongStore.getState().edit({ kind: 'song.set', changes: { landmarks: null } }, 'Landmarks as they were');
