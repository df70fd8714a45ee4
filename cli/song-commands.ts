import { constants, copyFile, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { asOrvidError, isOfDisk, OrvidError } from '@/core/errors';
import { commonRate, NO_NOTES, startsOf, writeLength } from '@/core/formats';
import { plainProof } from '@/core/proof';
import { recallCsv, recallJson, recallMarkdown, recallOf, recallPage } from '@/core/recall';
import { emptySong, MOST_TRACKS, newId, newTrack, USUAL_RATE_HZ, type Song } from '@/core/song';
import { missingRemark, originalsOf, songFromBundle } from '@/server/bundle/bundle-job';
import { packSong } from '@/server/bundle/pack';
import { discard, originalPath, settle, temporaryPath } from '@/server/audio/store';
import { closeDatabase } from '@/server/database/client';
import { eachFile } from '@/server/import/at-once';
import { piecesOf, type Piece } from '@/server/import/pieces';
import { readRecording, type ReadRecording } from '@/server/import/read-recording';
import { fileNotes } from '@/server/import/split-channels';
import { makeProof } from '@/server/proof/make-proof';
import { proofTask } from '@/server/proof/proof-job';
import { clearancesOf } from '@/server/render/clearances';
import { withPageFiles } from '@/server/render/render-job';
import { changedAt } from '@/server/songs/history';
import { createSong, listSongs, loadSong } from '@/server/songs/store';
import { endPools } from '@/server/workers/pool';
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

/**
 * A song of recordings, in the order of their names; of a WAV file with many channels each is a track. WAV files of one session begin where
 * they were recorded.
 * @param rateHz without it the rate that the recordings have in common, as far as their files say one; 48 kHz where they differ
 * @throws OrvidError `unreadable-audio`, `invalid-input`; no song is made then
 */
export async function newSong(title: string, files: readonly string[], rateHz?: Song['rateHz']): Promise<void> {
  if (files.length > MOST_TRACKS)
    throw new OrvidError(
      'invalid-input',
      `These are ${files.length} files; a song has at most ${MOST_TRACKS} tracks.`,
      'No song was made.',
    );
  const sorted = [...files].sort((first, second) => byName.compare(path.basename(first), path.basename(second)));
  const read = new Array<(Piece & ReadRecording)[]>(sorted.length);
  try {
    const notes = await Promise.all(sorted.map((name) => fileNotes(resolvePath(name)).catch(() => NO_NOTES)));
    const starts = startsOf(notes.map(({ timeReferenceSeconds }) => timeReferenceSeconds));
    const rate = rateHz ?? commonRate(notes.map((note) => note.rateHz)) ?? USUAL_RATE_HZ;
    await eachFile(sorted, async (name, i) => {
      read[i] = await readWhole(name, rate, starts[i]);
    });
    const tracks = read
      .flat()
      .map(({ recording: { audioId, channels, lengthFrames }, name }, i) =>
        newTrack({ audioId, channels, lengthFrames }, { id: newId(10), name, ink: i }),
      );
    const { id } = await createSong({ ...emptySong(title, rate), tracks });
    console.log(id);
  } finally {
    await endPools();
    await closeDatabase();
  }
}

/** Brings a file into the store, with the file itself. @param atSeconds where in the song it begins */
async function readWhole(name: string, rateHz: number, atSeconds: number): Promise<(Piece & ReadRecording)[]> {
  const fileName = path.basename(name);
  // In the data folder: what lies on another disk cannot be put into its place in one step.
  const copy = await temporaryPath();
  let pieces: Piece[] = [];
  try {
    await copyFile(resolvePath(name), copy, constants.COPYFILE_FICLONE).catch((thrown: unknown) => {
      if (isOfDisk(asOrvidError(thrown))) throw thrown;
      throw new OrvidError('invalid-input', `${name}: the file cannot be read.`, 'No song was made.');
    });
    pieces = await piecesOf(copy, { fileName, atSeconds }, `${copy}-piece`);
    const read: (Piece & ReadRecording)[] = [];
    for (const piece of pieces)
      read.push({ ...piece, ...(await readRecording({ file: piece.file, fileName, rateHz })) });
    for (const { file, originalHash } of read) await settle(file, originalPath(originalHash));
    return read;
  } finally {
    await discard(copy, ...pieces.map(({ file }) => file));
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
