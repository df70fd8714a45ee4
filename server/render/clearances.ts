import { cutRows, type LevelRows } from '@/core/measure';
import { claimingGroups, isEstimated, MixMeasure, mixTracks, stepsPerRowIn, wholeRange } from '@/core/mix';
import type { RecallClearances } from '@/core/recall';
import type { Song } from '@/core/song';
import { readBandLevels } from '../audio/measured';

/**
 * Clearances of a song's tracks and groups over all of it, by their ids; null for those without a claim. From rows of the length that a page
 * is given, so that both tell the same; marked as estimates where something reacts to levels.
 * @param read gives the levels over time of a recording
 * @throws OrvidError `not-found`, `damaged`
 */
export async function clearancesOf(song: Song, read = readBandLevels): Promise<RecallClearances> {
  const range = wholeRange(song);
  const rows = { firstStep: 0, endStep: Infinity, stepsPerRow: stepsPerRowIn(range) };
  const levels: Record<string, readonly LevelRows[]> = {};
  for (const { audioId } of song.tracks)
    levels[audioId] ??= [{ ...rows, bytes: cutRows(await read(audioId), { from: 0, to: Infinity }, rows.stepsPerRow) }];
  const tracks = mixTracks(song).map((track, i) => ({ ...track, claims: song.tracks[i].claims }));
  const { clearances } = new MixMeasure().update(tracks, levels, range, claimingGroups(song));
  const mark = { isEstimated: isEstimated(song) };
  return Object.fromEntries(Object.entries(clearances).map(([id, found]) => [id, found && { ...found, ...mark }]));
}
