import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import type { RenderFormat } from '@/core/formats';
import {
  MIX,
  partSpans,
  plainOrder,
  plannedFiles,
  renderableStrips,
  type PlannedFile,
  type RenderOrder,
  type RenderSpan,
  type SoundFile,
} from '@/core/renders';
import { leftOutText, songLengthFrames, type Song } from '@/core/song';
import { clippingRemark } from '@/server/render/clipping';
import { filesOfOrder, renderTaskOf, withPageFiles } from '@/server/render/render-job';
import { renderSongFile } from '@/server/render/render-song';
import { withSongFile } from '@/server/render/song-file';
import { changedAt } from '@/server/songs/history';
import { loadSong } from '@/server/songs/store';
import { resolvePath, wholeOrNothing } from './output';
import type { PageFile } from '@/server/audio/page-file';

export interface RenderOptions {
  stems?: string;
  groups?: boolean;
  returns?: boolean;
  throughMaster?: boolean;
  from?: number;
  to?: number;
  part?: string;
  bits?: RenderFormat;
  format?: SoundFile;
  loudness?: number;
  ceiling?: number;
  limiter?: boolean;
  tail?: number;
  why?: string;
}

/** Lends a song of the database, or of a file. @param use gets when it was changed last; nothing for a file */
async function withSong(
  name: string,
  use: (song: Song, pageFiles: Record<string, PageFile>, changed: string) => Promise<void>,
): Promise<void> {
  if (!name.endsWith('.json')) {
    const { song, revision } = await loadSong(name);
    const changed = (await changedAt(name, revision)).toISOString();
    await withPageFiles(song, (pageFiles) => use(song, pageFiles, changed));
    return;
  }
  const folder = await mkdtemp(path.join(os.tmpdir(), 'orvid-'));
  try {
    await withSongFile(resolvePath(name), folder, (song, pageFiles) => use(song, pageFiles, ''));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

function spanOf(song: Song, { from, to, part }: RenderOptions): RenderSpan[] {
  const length = songLengthFrames(song) / song.rateHz;
  if (part !== undefined) {
    const found = partSpans(song).filter(({ name }) => name.toLowerCase() === part.toLowerCase());
    if (found.length > 0) return found.slice(0, 1);
    const known = song.parts.map(({ name }) => name).join(', ') || 'none';
    throw new OrvidError('invalid-input', `The song has no part “${part}”. Its parts: ${known}.`);
  }
  if (from === undefined && to === undefined) return [];
  const span = { name: '', startSeconds: from ?? 0, endSeconds: Math.min(to ?? length, length) };
  if (span.endSeconds <= span.startSeconds)
    throw new OrvidError('invalid-input', 'There is nothing between --from and --to.');
  return [span];
}

/** The kind of file that is wanted: said, or the ending of the name. */
function fileOf(output: string, { format }: RenderOptions): SoundFile {
  const ending = path.extname(output).toLowerCase();
  return format ?? (ending === '.flac' ? 'flac' : ending === '.mp3' ? 'mp3' : 'wav');
}

function wantedStrips(song: Song, { stems, groups, returns }: RenderOptions): string[] {
  if (stems === undefined) return [];
  const isWanted = (kind: string) =>
    (!groups && !returns) || (groups && kind === 'group') || (returns && kind === 'return');
  return renderableStrips(song)
    .filter(({ kind }) => isWanted(kind))
    .map(({ id }) => id);
}

export async function render(name: string, output: string, options: RenderOptions): Promise<void> {
  await withSong(name, async (song, pageFiles, changed) => {
    const file = fileOf(output, options);
    const order: RenderOrder = {
      ...plainOrder,
      strips: wantedStrips(song, options),
      throughMaster: options.throughMaster ?? false,
      spans: spanOf(song, options),
      pattern: '{number} {strip}',
      settings: {
        file,
        bits: options.bits ?? (file === 'wav' ? '32f' : '24'),
        loudness:
          options.loudness === undefined
            ? null
            : {
                lufs: options.loudness,
                ceilingDbtp: options.ceiling ?? -1,
                by: options.limiter ? 'limiter' : 'gain',
              },
        tailSeconds: options.tail ?? 0,
        why: options.why ?? '',
      },
    };
    const { settings } = order;
    const write = async (planned: PlannedFile, target: string) => {
      const made = await wholeOrNothing(target, (out) =>
        renderSongFile(
          { ...renderTaskOf(song, { file: planned, settings }, changed), pageFiles, out },
          () => undefined,
        ),
      );
      const remarks = [made.remark, made.clippedSamples > 0 ? clippingRemark(made.clippedSamples) : undefined];
      for (const remark of remarks) if (remark) console.error(`${path.basename(target)}: ${remark}`);
    };
    const missing = leftOutText(song);
    if (missing) console.error(missing);
    filesOfOrder(song, order);
    for (const planned of plannedFiles(song, { ...order, strips: [] })) await write(planned, resolvePath(output));
    if (options.stems === undefined) return;
    const folder = resolvePath(options.stems);
    await mkdir(folder, { recursive: true });
    for (const planned of plannedFiles(song, { ...order, mix: false }))
      if (planned.what !== MIX) await write(planned, path.join(folder, planned.name));
  });
}
