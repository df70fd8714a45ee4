import { useCallback, useEffect, useMemo } from 'react';
import { compileSong } from '@/core/engine';
import type { Span } from '../../window/view/song-view';
import { useSong } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { useWaveforms } from '../../window/sound/waveforms';
import { addPeaks, mixOutline, type OutlinePart } from './mix-outline';
import type { StripView } from './strip-view';

/**
 * The outline of the mix over a stretch of the song, from finer waveforms where they are there; those of what the strip shows are asked for.
 * @param columns how many values
 * @returns gives the outline of a stretch: linear, one value per column
 */
export function useOutline(view: StripView, columns: number): (shown: Span) => Float64Array {
  const rateHz = useSong((song) => song.rateHz);
  const analyses = useAnalyses((state) => state.byAudio);
  const { byAudio, from, to, need } = useWaveforms();
  useEffect(() => {
    const ask = () => {
      const span = view.span();
      if (span) need(...framesOf(span, rateHz));
    };
    ask();
    return view.onChange(ask);
  }, [view, need, rateHz]);

  // The outline depends on faders and on what is heard, not on the equalizers: a string of figures tells when it changes.
  const mixKey = useSong((song) =>
    compileSong(song)
      .tracks.map(({ audioId, gain, audible }) => `${audioId}:${gain * audible}`)
      .join(),
  );
  /** The coarse and the fine waveforms of all that is heard, added. */
  const added = useMemo(() => {
    const heard = mixKey.split(',').map((entry) => {
      const [audioId, gain] = entry.split(':');
      return { audioId, gain: Math.abs(Number(gain)) };
    });
    const partsOf = (peaksOf: (audioId: string) => OutlinePart['peaks'] | undefined) =>
      heard.flatMap(({ audioId, gain }): OutlinePart[] => {
        const peaks = peaksOf(audioId);
        return peaks ? [{ peaks, gain }] : [];
      });
    const coarse = (audioId: string) => analyses[audioId]?.peaks[0];
    return {
      coarse: addPeaks(partsOf(coarse)),
      fine: addPeaks(partsOf((audioId) => byAudio[audioId] ?? coarse(audioId))),
    };
  }, [mixKey, analyses, byAudio]);
  return useCallback(
    (shown) => {
      const [first, end] = framesOf(shown, rateHz);
      const isFine = from <= first && to >= end;
      return mixOutline(isFine ? added.fine : added.coarse, first, Math.max(1, end - first), columns);
    },
    [added, rateHz, from, to, columns],
  );
}

const framesOf = ({ from, to }: Span, rateHz: number): [from: number, to: number] => [
  Math.floor(from * rateHz),
  Math.ceil(to * rateHz),
];
