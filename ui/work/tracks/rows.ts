'use client';
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { registerRows, type RegisterRow } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { useFolds } from '../../window/view/folds';
import { songOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';

/** The lanes as they are shown. */
export const rowsNow = (desk: Desk): RegisterRow[] => registerRows(songOf(desk), useFolds.of(desk).folded);

/** The lanes as they are shown; the same array as long as their order and the groups stay what they are. */
export function useRows(): RegisterRow[] {
  const folded = useFolds((folds) => folds.folded);
  const facts = useSong(
    useShallow((song) =>
      registerRows(song, folded).flatMap(({ id, kind, depth, isFolded }) => [id, kind, depth, isFolded] as const),
    ),
  );
  return useMemo(
    () =>
      Array.from({ length: facts.length / FACTS }, (_, i) => {
        const [id, kind, depth, isFolded] = facts.slice(i * FACTS);
        return { id, kind, depth, isFolded } as RegisterRow;
      }),
    [facts],
  );
}
const FACTS = 4;
