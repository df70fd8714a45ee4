'use client';
import { useMemo } from 'react';
import { create } from 'zustand';
import { registerRows, type RegisterRow } from '@/core/song';
import { currentSong, useSong } from '../song';

/** Which groups are folded in this window. */
interface Folds {
  folded: readonly string[];
  toggle: (busId: string) => void;
}

export const useFolds = create<Folds>((set, get) => ({
  folded: [],
  toggle: (busId) => {
    const { folded } = get();
    set({ folded: folded.includes(busId) ? folded.filter((id) => id !== busId) : [...folded, busId] });
  },
}));

/** The lanes as they are shown. */
export const rowsNow = (): RegisterRow[] => registerRows(currentSong(), useFolds.getState().folded);

export function useRows(): RegisterRow[] {
  const folded = useFolds((folds) => folds.folded);
  // Only what decides the order: a drag of a band changes nothing here.
  const order = useSong((song) =>
    [...song.tracks, ...song.buses].map((strip) => `${strip.id}>${strip.outputId}`).join(' '),
  );
  return useMemo(() => registerRows(currentSong(), folded), [order, folded]); // eslint-disable-line react-hooks/exhaustive-deps
}
