'use client';
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { spectrumBandOf, type MixedSpectrum } from '@/core/measure';
import { findStrip, type Strip, type Track } from '@/core/song';
import { ridgeTopDb } from '../axis';
import { currentSong, useSelection, useSong, useSongStore } from '../song';
import { useAnalyses } from './analyses';
import { useCompany } from './company';
import { liveAtFader } from './live';
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
  const recordings = useSong((song) => song.tracks.map((track) => track.audioId).join(' '));
  return useMemo(
    () => ridgeTopDb(recordings.split(' ').map((audioId) => analyses[audioId]?.spectrumDb ?? [])),
    [recordings, analyses],
  );
}

/** The spectrum of a strip as it stands. */
export function stripSpectrumNow(stripId: string): MixedSpectrum {
  const song = currentSong();
  return stripSpectrum(song, findStrip(song, stripId) ?? song.master, useAnalyses.getState().byAudio);
}

/** The tracks in company of the chosen one, with their long-term spectra. */
export function useCompanySpectra(): { track: Track; longTermDb: ArrayLike<number> }[] {
  const { stripIds, stage } = useCompany();
  const chosen = useSelection((selection) => selection.stripId);
  const analyses = useAnalyses((state) => state.byAudio);
  // Tracks that do not change stay the same objects, and their spectra are computed once.
  const tracks = useSongStore(
    useShallow(({ state }) => state.song.tracks.filter(({ id }) => stripIds.includes(id) && id !== chosen)),
  );
  return useMemo(
    () =>
      tracks.map((track) => {
        const { beforeDb, afterDb } = stripSpectrum(currentSong(), track, analyses);
        return { track, longTermDb: stage === 'before' ? beforeDb : afterDb };
      }),
    [tracks, stage, analyses],
  );
}

/** What the crosshair reads of the chosen track and its company at a frequency: levels at their faders, dB, live where they play. */
export function readLevels(hz: number): { name: string; db: number }[] {
  const song = currentSong();
  const { stripIds, stage } = useCompany.getState();
  const analyses = useAnalyses.getState().byAudio;
  const band = spectrumBandOf(hz);
  const chosen = useSelection.getState().stripId;
  return [chosen, ...stripIds.filter((id) => id !== chosen)].flatMap((id) => {
    const track = song.tracks.find((one) => one.id === id);
    if (!track) return [];
    const spectrum = stripSpectrum(song, track, analyses);
    const levels = liveAtFader(track, stage) ?? (stage === 'before' ? spectrum.beforeDb : spectrum.afterDb);
    return [{ name: track.name, db: levels[band] }];
  });
}
