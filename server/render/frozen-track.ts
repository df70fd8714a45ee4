import { OrvidError } from '@/core/errors';
import { frozenPart, frozenSong, type FrozenRender } from '@/core/mix';
import { channelsOut, checkRouting, type Song } from '@/core/song';
import { findFrozen, keepFrozen, stillWanted, type FrozenFacts } from '../audio/frozen';
import { faultIn } from '../audio/mending';
import { discard, temporaryPath } from '../audio/store';
import { config } from '../config';
import { runInWorker } from '../workers/pool';
import { dependencies } from './kept-figures';
import { withPageFiles } from './render-job';

/** A track that is to be frozen, of a state of a song that may not be saved. */
export interface FreezeQuestion {
  song: Song;
  trackId: string;
  /** Of the whole song. */
  lengthFrames: number;
}

/**
 * Has a track rendered through its chain, unless that was done before.
 * @param signal ends it when it aborts
 * @throws OrvidError `not-found`, `invalid-input`, `damaged`
 */
export async function freeze(
  { song, trackId, lengthFrames }: FreezeQuestion,
  signal: AbortSignal,
): Promise<FrozenRender> {
  const track = song.tracks.find(({ id }) => id === trackId);
  if (!track) throw new OrvidError('not-found', `The song has no track “${trackId}”.`, 'Nothing was frozen.');
  checkRouting(song);
  if (lengthFrames > config().maxHours * 3600 * song.rateHz)
    throw new OrvidError('invalid-input', `No song is longer than ${config().maxHours} hours.`, 'Nothing was frozen.');
  const part = frozenPart(song, trackId);
  const audioId = dependencies(frozenSong(part, trackId), 'frozen', lengthFrames);
  const render = { audioId, channels: channelsOut(track), lengthFrames };
  const known = await findFrozen(audioId);
  if (known && !(await faultIn(known))) {
    await stillWanted(audioId);
    return render;
  }
  const pages = await temporaryPath();
  try {
    const facts = await withPageFiles(part, async (pageFiles) => {
      await discard(pages);
      return runInWorker<FrozenFacts>('freeze', { part, trackId, lengthFrames, pageFiles, pages }, signal);
    });
    signal.throwIfAborted();
    await keepFrozen(audioId, pages, facts);
  } finally {
    await discard(pages);
  }
  return render;
}
