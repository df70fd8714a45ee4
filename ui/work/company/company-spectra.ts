'use client';
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { spectrumBandOf } from '@/core/measure';
import { findStrip, type Track } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';
import { useSelection } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { liveAtFader } from '../../window/sound/live';
import { stripSpectrum, trackSpectrum } from '../../window/sound/spectra';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { useCompany } from './company-store';

/** The spectrum of a strip as it stands, before and after its chain. */
export function stripSpectrumNow(desk: Desk, stripId: string) {
  const song = songOf(desk);
  return stripSpectrum(
    song,
    findStrip(song, stripId) ?? song.master,
    useAnalyses.of(desk).byAudio,
    useStripMeasures.of(desk).measures,
  );
}

/** The tracks in company of the chosen one, with their long-term spectra. */
export function useCompanySpectra(): { track: Track; longTermDb: ArrayLike<number> }[] {
  const stripIds = useCompany((company) => company.stripIds);
  const stage = useCompany((company) => company.stage);
  const chosen = useSelection((selection) => selection.stripId);
  const analyses = useAnalyses((state) => state.byAudio);
  const measures = useStripMeasures((state) => state.measures);
  const rateHz = useSong((song) => song.rateHz);
  // Tracks that do not change stay the same objects, and their spectra are computed once.
  const tracks = useSongStore(
    useShallow(({ state }) => state.song.tracks.filter(({ id }) => stripIds.includes(id) && id !== chosen)),
  );
  return useMemo(
    () =>
      tracks.map((track) => {
        const { beforeDb, afterDb } = trackSpectrum(track, rateHz, analyses, measures);
        return { track, longTermDb: stage === 'before' ? beforeDb : afterDb };
      }),
    [tracks, rateHz, stage, analyses, measures],
  );
}

/**
 * What the crosshair reads of the chosen track and its company at a frequency: levels at their faders, dB, live where they play.
 * @param most so many of them
 */
export function readLevels(desk: Desk, hz: number, most: number): { name: string; db: number }[] {
  const song = songOf(desk);
  const { stripIds, stage } = useCompany.of(desk);
  const analyses = useAnalyses.of(desk).byAudio;
  const band = spectrumBandOf(hz);
  const chosen = useSelection.of(desk).stripId;
  const read = [chosen, ...stripIds.filter((id) => id !== chosen)].slice(0, most);
  return read.flatMap((id) => {
    const track = song.tracks.find((track) => track.id === id);
    if (!track) return [];
    const spectrum = stripSpectrum(song, track, analyses, useStripMeasures.of(desk).measures);
    const levels = liveAtFader(desk, track, stage) ?? (stage === 'before' ? spectrum.beforeDb : spectrum.afterDb);
    return [{ name: track.name, db: levels[band] }];
  });
}
