import { STEPS_PER_SECOND, type StepRange } from '@/core/measure';
import { bleedInto, type FoundBleed } from '@/core/mix';
import type { Song } from '@/core/song';
import type { PageFile } from '../audio/page-file';
import { FileSources } from './sources';

export interface BleedTask {
  song: Song;
  trackId: string;
  sourceId: string;
  range: StepRange;
  pageFiles: Record<string, PageFile>;
}

/** Finds out from the files of two recordings what of the second is heard in the first. */
export function measureBleed({ song, trackId, sourceId, range, pageFiles }: BleedTask): FoundBleed | null {
  const frameAt = (step: number) => Math.round((step * song.rateHz) / STEPS_PER_SECOND);
  const sources = new FileSources(song, pageFiles);
  try {
    const frames = { startFrame: frameAt(range.from), endFrame: frameAt(range.to) };
    return bleedInto(song, trackId, sourceId, sources.of, frames);
  } finally {
    sources.close();
  }
}
