'use client';
import { useMemo } from 'react';
import type { MixedSpectrum } from '@/core/measure';
import type { Strip } from '@/core/song';
import { ridgeTopDb } from '../axis';
import { currentSong, useSong } from '../song';
import { useAnalyses } from './analyses';
import { stripSpectrum } from './spectra';

/** The spectrum of a track, bus or the master before and after its chain. */
export function useStripSpectrum(strip: Strip): MixedSpectrum {
  const analyses = useAnalyses((state) => state.byAudio);
  // A track depends on itself alone; a sum on every track.
  const inputs = useSong((song) => ('audioId' in strip ? null : song));
  return useMemo(() => stripSpectrum(inputs ?? currentSong(), strip, analyses), [strip, inputs, analyses]);
}

/** The level at the top of every ridge of the song: it depends on the recordings only, so nothing jumps while a fader moves. */
export function useRidgeTop(): number {
  const analyses = useAnalyses((state) => state.byAudio);
  const tracks = useSong((song) => song.tracks);
  return useMemo(
    () => ridgeTopDb(tracks.map((track) => analyses[track.audioId]?.spectrumDb ?? [])),
    [tracks, analyses],
  );
}
