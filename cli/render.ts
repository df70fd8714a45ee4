import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import type { RenderFormat } from '@/core/formats';
import { leftOutText, songLengthFrames, type Song } from '@/core/song';
import { fileNameOf } from '@/server/render/naming';
import { withPageFiles } from '@/server/render/render-job';
import { renderSongFile } from '@/server/render/render-song';
import { withSongFile } from '@/server/render/song-file';
import { stemsOf } from '@/server/render/stems';
import { loadSong } from '@/server/songs/store';
import { reportClipping } from './equalizer-commands';
import { resolvePath, wholeOrNothing } from './output';
import type { PageFile } from '@/server/audio/page-file';

export interface RenderOptions {
  stems?: string;
  from?: number;
  to?: number;
  bits: RenderFormat;
}

async function withSong(
  name: string,
  use: (song: Song, pageFiles: Record<string, PageFile>) => Promise<void>,
): Promise<void> {
  if (!name.endsWith('.json')) {
    const { song } = await loadSong(name);
    await withPageFiles(song, (pageFiles) => use(song, pageFiles));
    return;
  }
  const folder = await mkdtemp(path.join(os.tmpdir(), 'orvid-'));
  try {
    await withSongFile(resolvePath(name), folder, use);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export async function render(name: string, output: string, options: RenderOptions): Promise<void> {
  await withSong(name, async (song, pageFiles) => {
    const length = songLengthFrames(song);
    const frameOf = (seconds: number | undefined, otherwise: number) =>
      seconds === undefined ? otherwise : Math.min(length, Math.round(seconds * song.rateHz));
    const range = { startFrame: frameOf(options.from, 0), endFrame: frameOf(options.to, length) };
    if (range.endFrame <= range.startFrame)
      throw new OrvidError('invalid-input', 'There is nothing between --from and --to.');
    const write = async (version: Song, file: string) => {
      const { clippedSamples } = await wholeOrNothing(file, (out) =>
        renderSongFile({ song: version, pageFiles, out, format: options.bits, range }, () => undefined),
      );
      reportClipping(file, clippedSamples);
    };
    const missing = leftOutText(song);
    if (missing) console.error(missing);
    await write(song, resolvePath(output));
    if (!options.stems) return;
    const folder = resolvePath(options.stems);
    await mkdir(folder, { recursive: true });
    const stems = stemsOf(song);
    for (const [i, stem] of stems.entries())
      await write(stem.song, path.join(folder, `${String(i + 1).padStart(2, '0')}-${fileNameOf(stem.name)}`));
  });
}
