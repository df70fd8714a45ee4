import { transfer } from 'comlink';
import { ObservedRecordings } from '@/audio/observer';
import type { MixRange } from '@/core/engine';
import { observedTracks, observeProcessor } from '@/core/mix';
import type { Song } from '@/core/song';
import { offer } from './offer';

/** Looks at what goes on at a processor, away from the page. Thin: it is in core/. */
const recordings = new ObservedRecordings();

export interface ObserveRequest {
  song: Song;
  stripId: string;
  processorId: string;
  range: MixRange;
  columns: number;
}

const observer = {
  async observe({ song, stripId, processorId, range, columns }: ObserveRequest) {
    const ids = observedTracks(song, stripId);
    await recordings.bring(
      song.tracks.filter(({ id }) => ids.includes(id)),
      range,
      song.rateHz,
    );
    const observed = observeProcessor(song, stripId, processorId, recordings.of, range, columns);
    if (!observed) return null;
    const { before, after, key } = observed;
    return transfer(
      observed,
      [before, after, key].flatMap((levels) => (levels ? [levels.peaks.buffer, levels.counts.buffer] : [])),
    );
  },
};

export type ObserverWorker = typeof observer;

offer(observer);
