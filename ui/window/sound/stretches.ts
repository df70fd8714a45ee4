import type { LevelRows, StepRange } from '@/core/measure';
import { listenedRange, stepsPerRowIn, wholeRange } from '@/core/mix';
import type { Song } from '@/core/song';
import { bandLevelsUrl } from '../server/measured-urls';
import { requestPacked } from '../server/request';

/** A stretch of every recording whose levels are needed, and in which rows. */
export interface Stretch extends StepRange {
  stepsPerRow: number;
}

/** Stretches begin and end with so many steps, so that those of loops that differ little are the same: ten seconds. */
const GRID = 200;

/** All of a song, in rows that are as long as what is measured of it. */
export const wholeStretch = (song: Song): Stretch => ({
  from: 0,
  to: Infinity,
  stepsPerRow: stepsPerRowIn(wholeRange(song)),
});

/** The levels that measures of a song need: of all of it in rows that suit its length, and finer ones of what is looped. */
export function stretchesOf(song: Song): Stretch[] {
  const whole = wholeStretch(song);
  const listened = listenedRange(song);
  const stepsPerRow = stepsPerRowIn(listened);
  if (stepsPerRow >= whole.stepsPerRow) return [whole];
  const from = Math.floor(listened.from / GRID) * GRID;
  return [whole, { from, to: Math.ceil(listened.to / GRID) * GRID, stepsPerRow }];
}

/** Whether some levels are as good as what is asked for. */
export const areEnough = (known: readonly LevelRows[], { from, to, stepsPerRow }: Stretch) =>
  known.some((rows) => rows.firstStep <= from && rows.endStep >= to && rows.stepsPerRow <= stepsPerRow);

/** @throws OrvidError what the server said, or that it cannot be reached */
export async function requestLevels(audioId: string, { from, to, stepsPerRow }: Stretch): Promise<LevelRows> {
  const until = Number.isFinite(to) ? `&to=${to}` : '';
  const bytes = await requestPacked(bandLevelsUrl(audioId, `from=${from}${until}&per=${stepsPerRow}&packed=gzip`));
  return { bytes, firstStep: from, endStep: to, stepsPerRow };
}
