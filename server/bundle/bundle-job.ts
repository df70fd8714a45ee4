import { existsSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { plainName } from '@/core/renders';
import { newId, type Song } from '@/core/song';
import { discard, findAudio, incomingPath, originalPath, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import type { BundleTask, Job, JobResult, UnpackingTask } from '../jobs/job';
import { areJobsLeft, setRunner, startJob, type Report } from '../jobs/jobs';
import { eachFile } from '../import/at-once';
import { readRecording } from '../import/read-recording';
import { finishedPath, keepFinished } from '../render/finished';
import { songAt } from '../songs/history';
import { createSong, loadSong, songExists } from '../songs/store';
import { runInWorker } from '../workers/pool';
import { recordingsOf } from './manifest';
import type { PackTask } from './pack';
import type { Unpacked, UnpackTask } from './unpack';

export const bundleName = (title: string) => `${plainName(title) || 'song'}.orvid.zip`;

/** The files that a song's recordings came in as. @throws OrvidError `damaged` where one is gone */
export async function originalsOf(song: Song): Promise<PackTask['originals']> {
  const originals: PackTask['originals'] = [];
  for (const { audioId, trackName } of recordingsOf(song)) {
    const row = await findAudio(audioId);
    if (!row || !existsSync(originalPath(row.originalHash)))
      throw new OrvidError(
        'damaged',
        `The file that “${trackName}” came in as is missing.`,
        'Nothing was packed. Add the file again, or take the track out.',
      );
    originals.push({ audioId, sha256: row.originalHash, name: row.originalName, path: originalPath(row.originalHash) });
  }
  return originals;
}

/** Puts a song as one file into the line. */
export async function startPacking(songId: string): Promise<Job> {
  const { song, revision } = await loadSong(songId);
  await originalsOf(song);
  return startJob({ songId, name: bundleName(song.title) }, { kind: 'bundle', revision });
}

async function pack(
  { id, songId, name }: Pick<Job, 'id' | 'songId' | 'name'>,
  { revision }: BundleTask,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const { song } = await songAt(songId, revision);
  const out = await temporaryPath();
  try {
    const task: PackTask = { song, originals: await originalsOf(song), out };
    const { bytes } = await runInWorker<{ bytes: number }>('pack', task, signal, report);
    signal.throwIfAborted();
    await settle(out, finishedPath(id, name));
    await keepFinished({ id, songId, revision, fileName: name, format: 'bundle', about: { kind: 'bundle', bytes } });
    return { resultId: id };
  } finally {
    await discard(out);
  }
}
setRunner('bundle', pack);

/** Starts to make a song of a bundle that was sent. @returns a job whose song is the new one's id */
export async function startUnpacking(upload: string, fileName: string): Promise<Job> {
  return startJob({ songId: newId(12), name: fileName }, { kind: 'unpack', upload: path.basename(upload), fileName });
}

/** Bytes of the data folder's disk that may be filled: some room is left. */
async function roomBytes(): Promise<number> {
  const { bavail, bsize } = await statfs(config().dataDir);
  return Math.max(0, bavail * bsize - 500e6);
}

/**
 * Makes a song of a bundle.
 * @param songId the id that it gets; where there is such a song already, it is the one that was made before a crash
 * @returns what is missing in it
 */
export async function songFromBundle(
  bundle: { file: string; name: string },
  songId: string,
  signal?: AbortSignal,
  report: Report = () => undefined,
): Promise<Unpacked['missing']> {
  const folder = await temporaryPath();
  const task: UnpackTask = {
    ...bundle,
    known: [],
    folder,
    roomBytes: await roomBytes(),
    mostBytes: config().maxUploadBytes,
  };
  const { manifest, files, missing } = await runInWorker<Unpacked>('unpack', task, signal, report);
  try {
    const { song, recordings } = manifest;
    let done = 0;
    await eachFile(recordings, async ({ audioId, name, sha256 }) => {
      const file = files[audioId];
      if (!file) return;
      report('reading its recordings', done++ / recordings.length);
      const problem = await keepOriginal({ file, name, sha256, rateHz: song.rateHz }, signal);
      if (problem) missing.push({ audioId, name, why: problem });
    });
    signal?.throwIfAborted();
    await refuseOtherLengths(song, bundle.name);
    await createSong(song, songId);
    const played = new Set(recordingsOf(song).map(({ audioId }) => audioId));
    return missing.filter(({ audioId }) => played.has(audioId));
  } finally {
    await discard(...Object.values(files));
  }
}

/** @throws OrvidError `invalid-input` where the song says something else of a recording than it is */
async function refuseOtherLengths(song: Song, name: string): Promise<void> {
  for (const { tracks } of [song, ...song.drafts.map(({ settings }) => settings)])
    for (const track of tracks) {
      const row = await findAudio(track.audioId);
      if (row && (row.channels !== track.channels || row.lengthFrames !== track.lengthFrames))
        throw new OrvidError(
          'invalid-input',
          `${name}: “${track.name}”: its recording is not what the song says of it: length or channels differ.`,
          'No song was made of it.',
        );
    }
}

/** Puts a recording of a bundle into the store. @returns why it could not be read; nothing where it is there */
async function keepOriginal(
  { file, name, sha256, rateHz }: { file: string; name: string; sha256: string; rateHz: number },
  signal?: AbortSignal,
): Promise<string | undefined> {
  try {
    await readRecording({ file, fileName: name, rateHz, originalHash: sha256 }, signal);
  } catch (thrown) {
    if (!(thrown instanceof OrvidError) || thrown.code !== 'unreadable-audio') throw thrown;
    return thrown.message;
  }
  await settle(file, originalPath(sha256));
  return undefined;
}

/** Which recordings a song from a bundle lacks, and what can be done. */
export function missingRemark(missing: Unpacked['missing']): string | undefined {
  if (missing.length === 0) return undefined;
  const named = missing.slice(0, 6).map(({ name, why }) => `“${name}” (${why})`);
  const more = missing.length > named.length ? ` and ${missing.length - named.length} more` : '';
  return `Without its sound: ${named.join(', ')}${more}. Drop the files on the song, and they are taken for what is missing.`;
}

async function unpack(
  { songId }: Pick<Job, 'songId'>,
  { upload, fileName }: UnpackingTask,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const file = incomingPath(upload);
  try {
    // A crash may have come between the last step and its being written down.
    if (await songExists(songId)) return { resultId: songId };
    if (!existsSync(file))
      throw new OrvidError(
        'not-found',
        `“${fileName}” was not opened: the server was stopped in the middle of it.`,
        'Open the file again.',
      );
    const remark = missingRemark(await songFromBundle({ file, name: fileName }, songId, signal, report));
    return { resultId: songId, ...(remark && { remark }) };
  } finally {
    if (!areJobsLeft()) await discard(file);
  }
}
setRunner('unpack', unpack);
