import { partRows, type LevelRows, type StepRange } from '@/core/measure';
import { listenedRange, stepsPerRowIn, wholeRange } from '@/core/mix';
import type { Song } from '@/core/song';
import { bandLevelsUrl } from '../server/measured-urls';
import { requestPacked, Unreachable } from '../server/request';

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

/** As many recordings are asked for together: a request costs as much as what it brings of several. */
const TOGETHER = 16;

/**
 * Recordings that are asked for together: those whose names begin alike, so that the browser has most of what it was given before when a recording
 * is added, taken away or moved.
 */
function batchesOf(audioIds: readonly string[]): string[][] {
  const alike = new Map<number, string[]>();
  for (const audioId of audioIds.toSorted()) {
    const kind = Math.floor(parseInt(audioId[0], 16) / 4);
    alike.set(kind, [...(alike.get(kind) ?? []), audioId]);
  }
  return [...alike.values()].flatMap((ids) =>
    Array.from({ length: Math.ceil(ids.length / TOGETHER) }, (_, i) => ids.slice(i * TOGETHER, (i + 1) * TOGETHER)),
  );
}

async function requestTogether(audioIds: readonly string[], { from, to, stepsPerRow }: Stretch): Promise<LevelRows[]> {
  const until = Number.isFinite(to) ? `&to=${to}` : '';
  const joined = await requestPacked(bandLevelsUrl(audioIds, `from=${from}${until}&per=${stepsPerRow}`));
  const rows = partRows(joined, audioIds.length);
  return rows.map((bytes) => ({ bytes, firstStep: from, endStep: to, stepsPerRow }));
}

/**
 * Asks for the levels of recordings, several together.
 * @returns for each recording its levels, or what the server said of it, or that it cannot be reached
 */
export function requestLevels(audioIds: readonly string[], stretch: Stretch): Map<string, Promise<LevelRows>> {
  const levels = new Map<string, Promise<LevelRows>>();
  for (const batch of batchesOf(audioIds)) {
    const together = requestTogether(batch, stretch);
    batch.forEach((audioId, i) => {
      const own = together.then(
        (rows) => rows[i],
        (error: Error) => {
          // One of them may be damaged, and the others have theirs.
          if (error instanceof Unreachable || batch.length === 1) throw error;
          return requestTogether([audioId], stretch).then(([rows]) => rows);
        },
      );
      // Who asked may hear of it later.
      own.catch(() => undefined);
      levels.set(audioId, own);
    });
  }
  return levels;
}
