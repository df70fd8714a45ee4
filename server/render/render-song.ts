import { compileSong, designKernel, kernelRequests, renderMix, type MixRange } from '@/core/engine';
import type { RenderFormat } from '@/core/formats';
import { songLengthFrames, type Song } from '@/core/song';
import { FileSources } from './sources';
import { threadedGroups, threadsFor } from './threaded-groups';
import { writeWav, type SoundBlock } from './write-wav';
import type { PageFile } from '../audio/page-file';

export interface RenderTask {
  song: Song;
  /** File of a recording's pages, by its id. */
  pageFiles: Record<string, PageFile>;
  /** Where the file is written; it must not exist. */
  out: string;
  format: RenderFormat;
  /** The default is the whole song. */
  range?: MixRange;
}

export interface RenderedFile {
  frames: number;
  clippedSamples: number;
}

/** Renders a song's mix to a WAV file with the engine that plays it, a long one on all cores; the file is the same to the last bit. @param wantedThreads how many run the tracks; 0 is this one */
export async function renderSongFile(
  task: RenderTask,
  report: (step: string, progress: number) => void,
  wantedThreads?: number,
): Promise<RenderedFile> {
  const { song, format, out } = task;
  const range = task.range ?? { startFrame: 0, endFrame: songLengthFrames(song) };
  const frames = Math.max(0, range.endFrame - range.startFrame);
  const compiled = compileSong(song);
  const kernels = kernelRequests(song).map((request) => designKernel(request));
  const lengths = Object.fromEntries(song.tracks.map((track) => [track.id, track.lengthFrames]));
  const sources = new FileSources(task.pageFiles, lengths);
  const threads = wantedThreads ?? threadsFor(song, range);
  const others = threads > 0 ? threadedGroups({ song, kernels, pageFiles: task.pageFiles, range }, threads) : undefined;
  function* blocks(): Generator<SoundBlock> {
    for (const block of renderMix(compiled, sources.of, kernels, range, others)) {
      yield { samples: [block.left, block.right], frames: block.frames };
      report('rendering', (block.frame + block.frames - range.startFrame) / frames);
    }
  }
  try {
    return await writeWav(out, { channels: 2, rateHz: song.rateHz, format }, blocks());
  } finally {
    others?.end();
    sources.close();
  }
}
