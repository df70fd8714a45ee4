import { wholeRows, type LevelRows } from '@/core/measure';
import { claimingGroups, MixMeasure, mixTracks, wholeRange, type Clearance } from '@/core/mix';
import type { Song } from '@/core/song';
import { readBandLevels } from '../audio/measured';

/** Clearances of a song's tracks and groups over all of it, by their ids; null for those without a claim. @throws OrvidError `not-found`, `damaged` */
export async function clearancesOf(song: Song): Promise<Record<string, Clearance | null>> {
  const levels: Record<string, readonly LevelRows[]> = {};
  for (const { audioId } of song.tracks) levels[audioId] ??= [wholeRows(await readBandLevels(audioId))];
  const tracks = mixTracks(song).map((track, i) => ({ ...track, claims: song.tracks[i].claims }));
  return new MixMeasure().update(tracks, levels, wholeRange(song), claimingGroups(song)).clearances;
}
