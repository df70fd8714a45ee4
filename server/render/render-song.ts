import { compileSong, designKernel, kernelRequests, renderMix, type CompiledTrack, type MixRange } from '@/core/engine';
import type { RenderFormat } from '@/core/formats';
import { songLengthFrames, type Song } from '@/core/song';
import { FileSource } from './file-source';
import { writeWav, type SoundBlock } from './write-wav';

export interface RenderTask {
  song: Song;
  /** File of a recording's pages, by its id. */
  pageFiles: Record<string, string>;
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

/** Renders a song's mix to a WAV file with the engine that plays it. */
export async function renderSongFile(
  task: RenderTask,
  report: (step: string, progress: number) => void,
): Promise<RenderedFile> {
  const { song, format, out } = task;
  const range = task.range ?? { startFrame: 0, endFrame: songLengthFrames(song) };
  const frames = Math.max(0, range.endFrame - range.startFrame);
  const sources = new Map<string, FileSource>();
  const sourceOf = (track: CompiledTrack) => {
    const file = task.pageFiles[track.audioId];
    if (!file) return undefined;
    const lengthFrames = song.tracks.find((one) => one.id === track.id)!.lengthFrames;
    const source = sources.get(track.id) ?? new FileSource(file, track.channels, lengthFrames);
    sources.set(track.id, source);
    return source;
  };
  function* blocks(): Generator<SoundBlock> {
    const kernels = kernelRequests(song).map((request) => designKernel(request));
    for (const block of renderMix(compileSong(song), sourceOf, kernels, range)) {
      yield { samples: [block.left, block.right], frames: block.frames };
      report('rendering', (block.frame + block.frames - range.startFrame) / frames);
    }
  }
  try {
    return await writeWav(out, { channels: 2, rateHz: song.rateHz, format }, blocks());
  } finally {
    sources.forEach((source) => source.close());
  }
}
