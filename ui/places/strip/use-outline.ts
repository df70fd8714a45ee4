import { useEffect, useMemo } from 'react';
import { compileSong } from '@/core/engine';
import type { Span } from '../../window/view/song-view';
import { useSong } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { useWaveforms } from '../../window/sound/waveforms';
import { mixOutline } from './mix-outline';

/**
 * The outline of the mix over what is shown of the song, from finer waveforms where it is a stretch.
 * @param columns how many values
 * @returns linear, one value per column
 */
export function useOutline(shown: Span, isStretch: boolean, columns: number): Float64Array {
  const rateHz = useSong((song) => song.rateHz);
  const analyses = useAnalyses((state) => state.byAudio);
  const waveforms = useWaveforms();
  const [from, to] = [Math.floor(shown.from * rateHz), Math.ceil(shown.to * rateHz)];
  useEffect(() => {
    if (isStretch) waveforms.need(from, to);
  }, [isStretch, waveforms, from, to]);

  // The outline depends on faders and on what is heard, not on the equalizers: a string of figures tells when it changes.
  const mixKey = useSong((song) =>
    compileSong(song)
      .tracks.map(({ audioId, gain, audible }) => `${audioId}:${gain * audible}`)
      .join(),
  );
  return useMemo(() => {
    const isFine = isStretch && waveforms.from <= from && waveforms.to >= to;
    const heard = mixKey.split(',').flatMap((entry) => {
      const [audioId, gain] = entry.split(':');
      const fine = isFine ? waveforms.byAudio[audioId] : undefined;
      const peaks = fine ? [fine] : analyses[audioId]?.peaks;
      return peaks ? [{ peaks, gain: Math.abs(Number(gain)) }] : [];
    });
    return mixOutline(heard, from, Math.max(1, to - from), columns);
  }, [mixKey, analyses, waveforms, isStretch, from, to, columns]);
}
