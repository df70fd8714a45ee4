import { compileSong, inLongerBlocks, songKernels, renderMix } from '@/core/engine';
import {
  BandLevelsAnalyser,
  BYTE_POWERS,
  cutRows,
  FLOOR_DB,
  SPECTRUM_BANDS,
  STEPS_PER_SECOND,
  type StepRange,
} from '@/core/measure';
import { reactivePart, stepsPerRowIn, stripUpTo, type StripLevels } from '@/core/mix';
import { findStrip, type Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { FileSources } from './sources';

export interface StripLevelsTask {
  song: Song;
  stripId: string;
  range: StepRange;
  pageFiles: Record<string, PageFile>;
}

/** Levels of a strip, and those behind its last processor that reacts over time: 120 bytes a row. */
export interface MeasuredStripLevels extends StripLevels {
  rows: Uint8Array;
  stepsPerRow: number;
}

/** What the longest windows reach beyond a stretch, steps of 50 ms. */
const MARGIN = 30;

/** Levels over time of a song that is only a part, over a stretch: a row of 120 bytes for every step. */
function levelsOf(song: Song, { from, to }: StepRange, pageFiles: StripLevelsTask['pageFiles']): Uint8Array {
  const frameAt = (step: number) => Math.round((step * song.rateHz) / STEPS_PER_SECOND);
  const begin = Math.max(0, from - MARGIN);
  const range = { startFrame: frameAt(begin), endFrame: frameAt(to + MARGIN) };
  const sources = new FileSources(song, pageFiles);
  const analyser = new BandLevelsAnalyser(song.rateHz, 2);
  try {
    const kernels = songKernels(song);
    for (const { left, right, frames } of inLongerBlocks(renderMix(compileSong(song), sources.of, kernels, range)))
      analyser.push([left.subarray(0, frames), right.subarray(0, frames)]);
  } finally {
    sources.close();
  }
  return analyser.finish().slice((from - begin) * SPECTRUM_BANDS, (to - begin) * SPECTRUM_BANDS);
}

/** Mean level of each band, dB. */
function meanDb(levels: Uint8Array): number[] {
  const sums = new Float64Array(SPECTRUM_BANDS);
  for (let i = 0; i < levels.length; i++) sums[i % SPECTRUM_BANDS] += BYTE_POWERS[levels[i]];
  const steps = Math.max(1, levels.length / SPECTRUM_BANDS);
  return Array.from(sums, (sum) => Math.max(FLOOR_DB, Math.round(1000 * Math.log10(sum / steps + 1e-30)) / 100));
}

/** Renders a strip by the engine that plays it, before its chain and behind what reacts in it, and measures both. */
export function measureStripLevels({ song, stripId, range, pageFiles }: StripLevelsTask): MeasuredStripLevels {
  const part = reactivePart(findStrip(song, stripId)!.chain);
  const levelsAt = (chain: typeof part) => levelsOf(stripUpTo(song, stripId, chain), range, pageFiles);
  const before = levelsAt([]);
  const behind = part.length === 0 ? before : levelsAt(part);
  const stepsPerRow = stepsPerRowIn(range);
  const rows = cutRows(behind, { from: 0, to: range.to - range.from }, stepsPerRow);
  return { inDb: meanDb(before), outDb: meanDb(behind), rows, stepsPerRow };
}
