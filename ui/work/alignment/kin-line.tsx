'use client';
import { useShallow } from 'zustand/react/shallow';
import { kinOf } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { TextButton } from '../../kit/controls/button';
import { FigureRow } from '../../kit/controls/figure-row';
import { useOneSource } from '../../window/sound/one-source';
import { useSelection } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';

/** The names of the tracks that are one source with a track. */
export function useKin(trackId: string): string[] {
  const pairs = useOneSource((store) => store.pairs);
  return useSong(
    useShallow((song) => {
      const track = song.tracks.find(({ id }) => id === trackId);
      return track ? kinOf(song, track, pairs).map(({ name }) => name) : [];
    }),
  );
}

/** Says which tracks are one source with the chosen one, and chooses them with it. */
export function KinLine({ stripId }: { stripId: string }) {
  const desk = useDesk();
  const kin = useKin(stripId);
  const pairs = useOneSource((store) => store.pairs);
  const others = useSong(
    useShallow((song) => {
      const track = song.tracks.find(({ id }) => id === stripId);
      return track ? kinOf(song, track, pairs).map(({ id }) => id) : [];
    }),
  );
  if (kin.length === 0) return null;
  return (
    <FigureRow>
      <span>Same as</span>
      <TextButton
        data-hint="One source, recorded more than once: not counted as in its way · press to choose them together"
        onPress={() => {
          useSelection.of(desk).chooseStrip(stripId);
          useSelection.api(desk).setState({ others });
        }}
      >
        {kin.join(', ')}
      </TextButton>
    </FigureRow>
  );
}
