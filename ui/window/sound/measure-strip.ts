import type { LevelRows, StepRange } from '@/core/measure';
import {
  addedDb,
  beyondDb,
  chainResponseDb,
  feedingPart,
  reactivePart,
  type BandLevels,
  type StripLevels,
  type StripMeasure,
  type StripMeasures,
} from '@/core/mix';
import { findStrip, stripChannels, type Song } from '@/core/song';
import { request } from '../server/request';

type Answer = StripLevels & { rows: string; stepsPerRow: number };

/** What is known of a song when one of its strips is measured: of what feeds it. */
export interface MeasuredSoFar {
  /** Of the recordings, and behind chains that react. */
  levels: BandLevels;
  measures: StripMeasures;
}

export interface MeasuredStrip {
  measure: StripMeasure;
  /** The levels behind its last processor that reacts; null where the measure names none. */
  rows: LevelRows | null;
}

/**
 * Has the server measure a strip from its sound over a stretch.
 * @param levelsId a name for the levels behind what reacts in it, of its own
 * @returns what makes a measure of the answer, with what is known when it is made
 * @throws OrvidError what the server said, or that it cannot be reached
 */
export async function measureStrip(
  song: Song,
  stripId: string,
  range: StepRange,
  levelsId: string,
  signal: AbortSignal,
): Promise<(known: MeasuredSoFar) => MeasuredStrip> {
  const question = { song: feedingPart(song, [stripId]), stripId, range };
  const answer = await request<Answer>('POST', '/api/measures/levels', question, signal);
  const strip = findStrip(song, stripId)!;
  const of = reactivePart(strip.chain);
  const isTrack = 'audioId' in strip;
  const hasLevels = isTrack && of.length > 0;
  const bytes = Uint8Array.from(atob(answer.rows), (character) => character.charCodeAt(0));
  const rows = { bytes, firstStep: range.from, endStep: range.to, stepsPerRow: answer.stepsPerRow };
  return ({ levels, measures }) => {
    const others = new Map([...measures].filter(([id]) => id !== stripId));
    const measure: StripMeasure = {
      of,
      beyondDb: beyondDb(answer.inDb, answer.outDb, chainResponseDb(of, stripChannels(strip), song.rateHz)),
      addedDb: isTrack ? null : addedDb(song, stripId, answer.inDb, levels, range, others),
      levelsId: hasLevels ? levelsId : null,
      isCurrent: true,
    };
    return { measure, rows: hasLevels ? rows : null };
  };
}
