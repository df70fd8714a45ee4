import { OrvidError } from '@/core/errors';
import { findStrip, songLengthFrames } from '@/core/song';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import { withPageFiles } from './render-job';
import type { PartFigures } from './measure-part';

export interface MeasuredPart extends PartFigures {
  /** Of the song that was measured. */
  revision: number;
}

/**
 * Measures a part of a song as it stands now, in a worker thread.
 * @param seconds the stretch; the default is the whole song
 * @param signal ends it when it aborts
 * @throws OrvidError `not-found`, `invalid-input` for a stretch outside the song, `damaged`
 */
export async function measureSongPart(
  songId: string,
  stripId: string,
  seconds: { from?: number; to?: number },
  signal: AbortSignal,
): Promise<MeasuredPart> {
  const { song, revision } = await loadSong(songId);
  if (!findStrip(song, stripId))
    throw new OrvidError('not-found', `The song has no track or bus “${stripId}”.`, 'Nothing was measured.');
  const frameAt = (at: number) => Math.min(songLengthFrames(song), Math.max(0, Math.round(at * song.rateHz)));
  const range = { startFrame: frameAt(seconds.from ?? 0), endFrame: frameAt(seconds.to ?? Infinity) };
  if (!(range.endFrame > range.startFrame))
    throw new OrvidError('invalid-input', 'The stretch to measure lies outside the song.', 'Nothing was measured.');
  const figures = await withPageFiles(song, (pageFiles) =>
    runInWorker<PartFigures>('measurePart', { song, stripId, pageFiles, range }, signal),
  );
  return { ...figures, revision };
}
