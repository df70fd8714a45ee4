import { STEPS_PER_SECOND, type Alignment, type FrequencyBand, type StepRange } from '@/core/measure';
import { alignStrips } from '@/core/mix';
import type { Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { FileSources } from './sources';

export interface AlignmentTask {
  song: Song;
  /** The first is the one that the others are held against. */
  stripIds: string[];
  range: StepRange;
  band: FrequencyBand | null;
  pageFiles: Record<string, PageFile>;
}

/** Finds out from the files of a song's recordings how strips stand to each other. */
export function measureAlignment({ song, stripIds, range, band, pageFiles }: AlignmentTask): Alignment[] {
  const frameAt = (step: number) => Math.round((step * song.rateHz) / STEPS_PER_SECOND);
  const sources = new FileSources(song, pageFiles);
  try {
    return alignStrips(
      song,
      stripIds,
      sources.of,
      { startFrame: frameAt(range.from), endFrame: frameAt(range.to) },
      band,
    );
  } finally {
    sources.close();
  }
}
