import { create } from 'zustand';
import { useMemo } from 'react';
import { COMMON_LANDMARKS, landmarksFor, type Landmark } from '@/core/song';
import { remember, remembered } from '../../kit/storage/browser-storage';
import type { Desk } from '../../window/desk/desk';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useSelection, useStripFacts } from '../../window/song/selection';
import { songOf } from '../../window/song/live-song';

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
    remember(KEY, String(isShown));
    set({ isShown });
  },
  restore: () => {
    const stored = remembered(KEY);
    if (stored) set({ isShown: stored === 'true' });
  },
}));

/** The landmarks of the chosen track's part; none for a bus or the master. */
export function useChosenLandmarks(): Landmark[] {
  const { part } = useStripFacts(useSelection((selection) => selection.stripId));
  const own = useSong((song) => song.landmarks);
  return useMemo(() => (part === undefined ? [] : landmarksFor(own ?? COMMON_LANDMARKS, part)), [part, own]);
}

/** Changes the song's own list of landmarks, which begins as the common one. */
export function changeLandmarks(
  desk: Desk,
  change: (landmarks: readonly Landmark[]) => Landmark[],
  label: string,
): void {
  const landmarks = change(songOf(desk).landmarks ?? COMMON_LANDMARKS);
  useSongStore.of(desk).edit({ kind: 'song.set', changes: { landmarks } }, label);
}

/** Back to the common list. */
export const forgetOwnLandmarks = (desk: Desk) =>
  useSongStore.of(desk).edit({ kind: 'song.set', changes: { landmarks: null } }, 'Landmarks as they were');
