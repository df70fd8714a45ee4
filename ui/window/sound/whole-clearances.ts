import { wrap } from 'comlink';
import { claimingGroups, mixTracks, wholeRange, type Clearance, type ClaimingTrack } from '@/core/mix';
import type { Song } from '@/core/song';
import type { MixWorker } from '@/workers/mix';
import { requestLevels, wholeStretch } from './stretches';

/** The clearances of a song without and with its equalizers, over all of it. */
export async function wholeClearances(
  song: Song,
  signal: AbortSignal,
): Promise<Record<'before' | 'after', Record<string, Clearance | null>>> {
  const worker = new Worker('/audio/mix.js');
  try {
    const remote = wrap<MixWorker>(worker);
    for (const audioId of new Set(song.tracks.map((track) => track.audioId))) {
      signal.throwIfAborted();
      await remote.setLevels(audioId, [await requestLevels(audioId, wholeStretch(song))]);
    }
    const claiming = (isPlain: boolean): ClaimingTrack[] =>
      mixTracks(song, { isPlain }).map((track, i) => ({ ...track, claims: song.tracks[i].claims }));
    const clearancesOf = async (isPlain: boolean) =>
      (await remote.update(claiming(isPlain), wholeRange(song), claimingGroups(song))).clearances;
    return { before: await clearancesOf(true), after: await clearancesOf(false) };
  } finally {
    worker.terminate();
  }
}
