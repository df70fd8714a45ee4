import { compileSong, inLongerBlocks, songKernels, renderMix } from '@/core/engine';
import { frozenSong } from '@/core/mix';
import { channelsOut, findStrip, type Song, type Track } from '@/core/song';
import { FROZEN_BITS, type FrozenFacts } from '../audio/frozen';
import type { PageFile } from '../audio/page-file';
import { PageWriter } from '../audio/write-pages';
import { FileSources } from './sources';

export interface FreezeTask {
  /** What the track is made of, see `frozenPart`. */
  part: Song;
  trackId: string;
  lengthFrames: number;
  pageFiles: Record<string, PageFile>;
  /** Where the pages are written. */
  pages: string;
}

/** Renders a track through its chain, from the beginning of the song to its end. @throws OrvidError `damaged` */
export async function freezeTrack(
  { part, trackId, lengthFrames, pageFiles, pages }: FreezeTask,
  report: (step: string, progress: number) => void,
): Promise<FrozenFacts> {
  const track = findStrip(part, trackId) as Track;
  const { name } = track;
  const channels = channelsOut(track);
  const song = frozenSong(part, trackId);
  const sources = new FileSources(song, pageFiles);
  const writer = await PageWriter.begin(pages, channels, FROZEN_BITS);
  try {
    const kernels = songKernels(song);
    const range = { startFrame: 0, endFrame: lengthFrames };
    for (const { left, right, frames, frame } of inLongerBlocks(
      renderMix(compileSong(song), sources.of, kernels, range),
    )) {
      await writer.push([left, right].slice(0, channels), frames);
      report('freezing', (frame + frames) / lengthFrames);
    }
    await writer.finish();
  } finally {
    sources.close();
    await writer.close();
  }
  return { name, channels, rateHz: part.rateHz, lengthFrames, pageChecksums: writer.pageChecksums };
}
