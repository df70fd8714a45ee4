import { createHash } from 'node:crypto';
import { compileSong, isHeard, type MixRange } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import { partOf } from '@/core/mix';
import { findStrip, songLengthFrames, type Song } from '@/core/song';
import { singleton } from '../singleton';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import type { PartFigures } from './measure-part';
import { withPageFiles } from './render-job';

export interface MeasuredPart extends PartFigures {
  /** Of the song that was measured. */
  revision: number;
}

/** Figures that are kept: those of several songs of many tracks. */
const MOST_KEPT = 2000;
const kept = () => singleton('measured parts', () => new Map<string, PartFigures>());

/** What the figures of a part depend on: everything of it that is heard, and nothing else. */
function dependencies(part: Song, range: MixRange): string {
  const compiled = compileSong(part);
  const heard = compiled.tracks.filter(isHeard);
  return createHash('sha256')
    .update(JSON.stringify([{ ...compiled, tracks: heard }, range]))
    .digest('hex');
}

/** What is measured is kept until the part sounds otherwise. */
async function once(key: string, measure: () => Promise<PartFigures>): Promise<PartFigures> {
  const all = kept();
  const figures = all.get(key) ?? (await measure());
  // The one that was asked for last goes last.
  all.delete(key);
  all.set(key, figures);
  for (const oldest of all.keys()) {
    if (all.size <= MOST_KEPT) break;
    all.delete(oldest);
  }
  return figures;
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
  const part = partOf(song, stripId);
  const figures = await once(dependencies(part, range), () =>
    withPageFiles(part, (pageFiles) =>
      runInWorker<PartFigures>('measurePart', { song, stripId, pageFiles, range }, signal),
    ),
  );
  return { ...figures, revision };
}
