import { copyFile, mkdtemp, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { writeLength } from '@/core/formats';
import { plainProof } from '@/core/proof';
import { recallCsv, recallJson, recallMarkdown, recallOf, recallPage } from '@/core/recall';
import { emptySong, newId, newTrack, type Song, type Track } from '@/core/song';
import { missingRemark, originalsOf, songFromBundle } from '@/server/bundle/bundle-job';
import { packSong } from '@/server/bundle/pack';
import { originalPath, settle } from '@/server/audio/store';
import { closeDatabase } from '@/server/database/client';
import type { DecodedRecording } from '@/server/import/decode-recording';
import { keepRecording, trackNameOf } from '@/server/import/import-track';
import { makeProof } from '@/server/proof/make-proof';
import { proofTask } from '@/server/proof/proof-job';
import { clearancesOf } from '@/server/render/clearances';
import { withPageFiles } from '@/server/render/render-job';
import { changedAt } from '@/server/songs/history';
import { createSong, listSongs, loadSong } from '@/server/songs/store';
import { endPools, runInWorker } from '@/server/workers/pool';
import { resolvePath, wholeOrNothing } from './output';

/** Commands about whole songs. */

const RECALL_WRITERS = { md: recallMarkdown, csv: recallCsv, json: recallJson, html: recallPage } as const;
export type RecallFormat = keyof typeof RECALL_WRITERS;

const byName = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

export async function songs(asJson: boolean): Promise<void> {
  const list = await listSongs();
  await closeDatabase();
  if (asJson) {
    const lines = list.map(({ id, title, tracks, lengthSeconds, problem }) => ({
      id,
      title,
      tracks,
      lengthSeconds,
      state: problem ?? 'well',
    }));
    console.log(JSON.stringify(lines, null, 2));
    return;
  }
  for (const { id, title, tracks, lengthSeconds, problem } of list)
    console.log([id, title, `${tracks} tracks`, writeLength(lengthSeconds), problem ?? 'well'].join('\t'));
}

/** So many files are read in at once, as many as there are threads for it. */
const READ_AT_ONCE = 2;

/** A song of recordings, in the order of their names. @throws OrvidError `unreadable-audio`; no song is made then */
export async function newSong(title: string, files: readonly string[], rateHz: Song['rateHz']): Promise<void> {
  const folder = await mkdtemp(path.join(os.tmpdir(), 'orvid-'));
  const sorted = [...files].sort((one, other) => byName.compare(path.basename(one), path.basename(other)));
  const tracks = new Array<Track>(sorted.length);
  const read = async (i: number) => {
    const fileName = path.basename(sorted[i]);
    const [pages, source] = [path.join(folder, `${i}.pages`), path.join(folder, `${i}.original`)];
    await copyFile(resolvePath(sorted[i]), source).catch(() => {
      throw new OrvidError('invalid-input', `${sorted[i]}: the file cannot be read.`, 'No song was made.');
    });
    const decoded = await runInWorker<DecodedRecording>('decode', { source, pages, fileName, rateHz });
    await keepRecording(decoded, { pages, fileName, rateHz });
    await settle(source, originalPath(decoded.originalHash));
    const { audioId, channels, lengthFrames } = decoded;
    tracks[i] = newTrack({ audioId, channels, lengthFrames }, { id: newId(10), name: trackNameOf(fileName), ink: i });
  };
  let next = 0;
  const readOn = async () => {
    while (next < sorted.length) await read(next++);
  };
  try {
    await Promise.all(Array.from({ length: READ_AT_ONCE }, readOn));
    const { id } = await createSong({ ...emptySong(title, rateHz), tracks });
    console.log(id);
  } finally {
    await endPools();
    await rm(folder, { recursive: true, force: true });
    await closeDatabase();
  }
}

/** A song as one file. */
export async function pack(songId: string, output: string): Promise<void> {
  const { song } = await loadSong(songId);
  const originals = await originalsOf(song);
  const target = resolvePath(output);
  await wholeOrNothing(target, (out) => packSong({ song, originals, out }, () => undefined));
  await closeDatabase();
}

/** A song of such a file; prints its id. What it lacks is told. */
export async function unpack(file: string): Promise<void> {
  const id = newId(12);
  try {
    const remark = missingRemark(await songFromBundle({ file: resolvePath(file), name: path.basename(file) }, id));
    if (remark) console.error(remark);
    console.log(id);
  } finally {
    await endPools();
    await closeDatabase();
  }
}

/** The recall sheet of a song, with its clearances; to a file, or to standard output. */
export async function recall(songId: string, format: RecallFormat, output?: string): Promise<void> {
  const { song } = await loadSong(songId);
  const text = RECALL_WRITERS[format](recallOf(song, { clearances: await clearancesOf(song) }));
  if (output === undefined) process.stdout.write(text);
  else await wholeOrNothing(resolvePath(output), (file) => writeFile(file, text, { flag: 'wx' }));
  await endPools();
  await closeDatabase();
}

/** The page for the client. @param tracks names of tracks that are shown beside the mix, separated by commas */
export async function proof(songId: string, output: string, tracks: string | undefined, notes: string): Promise<void> {
  const { song, revision } = await loadSong(songId);
  const names = (tracks ?? '')
    .split(',')
    .map((name) => name.trim().toLowerCase())
    .filter(Boolean);
  const strips = names.map((name) => {
    const found = [...song.tracks, ...song.buses].find((strip) => strip.name.toLowerCase() === name);
    if (!found) throw new OrvidError('invalid-input', `The song has no track “${name}”.`, 'Nothing was written.');
    return found.id;
  });
  const task = await proofTask(song, { ...plainProof, strips, notes }, await changedAt(songId, revision));
  await withPageFiles(song, (pageFiles) =>
    wholeOrNothing(resolvePath(output), (out) => makeProof({ ...task, pageFiles, out }, () => undefined)),
  );
  await endPools();
  await closeDatabase();
}
