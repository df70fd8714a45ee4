'use client';
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { ridgeTopDb } from '../../kit/axis/levels';
import { useSong } from '../song/song-store';
import { useAnalyses } from './analyses';

/** The level at the top of every ridge of the song: it depends on the recordings only, so nothing jumps while a fader moves. */
export function useRidgeTop(): number {
  const analyses = useAnalyses((state) => state.byAudio);
  const recordings = useSong(useShallow((song) => song.tracks.map((track) => track.audioId)));
  return useMemo(
    () => ridgeTopDb(recordings.map((audioId) => analyses[audioId]?.spectrumDb ?? [])),
    [recordings, analyses],
  );
}
