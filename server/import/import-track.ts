import { createWriteStream, existsSync } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asOrvidError, OrvidError } from '@/core/errors';
import { MOST_TRACKS, newTrack } from '@/core/song';
import { fileHash, recordingIdOf } from '../audio/checksum';
import { keepMeasured } from '../audio/measured';
import { faultOf } from '../audio/mending';
import {
  discard,
  findAudio,
  incomingPath,
  originalPath,
  pagesPath,
  registerAudio,
  settle,
  temporaryPath,
} from '../audio/store';
import { config } from '../config';
import type { ImportTask, Job, JobResult } from '../jobs/job';
import { areJobsLeft, setRunner, startJob, type Report } from '../jobs/jobs';
import { singleton } from '../singleton';
import { isJournalled, loadSong, submitEdits } from '../songs/store';
import { runInWorker } from '../workers/pool';
import type { DecodedRecording } from './decode-recording';

/** A file name as a track's name: without its folder and ending. */
export function trackNameOf(fileName: string): string {
  const base = path.basename(fileName.replace(/\\/g, '/')).replace(/\.[a-z0-9]{1,5}$/i, '');
  return (
    base
      .replace(/[_\s]+/g, ' ')
      .trim()
      .slice(0, 120) || 'Track'
  );
}

/** An upload of which nothing has come for so long has ended. */
const STALLED_AFTER_MS = 60_000;

/**
 * Streams an upload to a temporary file.
 * @throws OrvidError `too-large`, `cancelled` when the page broke it off; nothing is left behind then
 */
export async function receiveUpload(
  body: ReadableStream<Uint8Array> | null,
  fileName: string,
  signal?: AbortSignal,
  limit = { bytes: config().maxUploadBytes, setting: 'ORVID_MAX_UPLOAD_MIB' },
): Promise<string> {
  if (!body) throw new OrvidError('invalid-input', `“${fileName}” arrived without content.`);
  const file = await temporaryPath();
  let bytes = 0;
  const stalled = new AbortController();
  const stall = setTimeout(() => stalled.abort(), STALLED_AFTER_MS);
  const watch = new Transform({
    transform(chunk: Buffer, _, done) {
      stall.refresh();
      bytes += chunk.length;
      if (bytes <= limit.bytes) done(null, chunk);
      else
        done(
          new OrvidError(
            'too-large',
            `“${fileName}” is larger than ${Math.round(limit.bytes / 2 ** 20)} MiB, the limit for one file.`,
            `Nothing of it was kept. ${limit.setting} raises the limit.`,
          ),
        );
    },
  });
  try {
    await pipeline(
      Readable.fromWeb(body as Parameters<typeof Readable.fromWeb>[0]),
      watch,
      createWriteStream(file, { flags: 'wx' }),
      { signal: signal ? AbortSignal.any([signal, stalled.signal]) : stalled.signal },
    );
    return file;
  } catch (thrown) {
    await discard(file);
    if (thrown instanceof OrvidError) throw thrown;
    const error = asOrvidError(thrown);
    if (error.code === 'disk-full') throw error;
    throw new OrvidError('cancelled', `The upload of “${fileName}” broke off.`, 'Nothing of it was kept.');
  } finally {
    clearTimeout(stall);
  }
}

/**
 * Starts the import of an uploaded file as a new track: at the end of the song, or in its place among those of its drop.
 * @param facts what the window said: its name of the upload; the drop that it came with and its place among the files of that drop, whose
 *   tracks stand in this order, whichever is read first; whether to take a recording in although a track plays it already
 * @throws OrvidError `invalid-input` for a song that is full
 */
export async function startImport(
  songId: string,
  upload: string,
  fileName: string,
  facts: ImportTask['facts'] = {},
): Promise<Job> {
  const { song } = await loadSong(songId);
  if (song.tracks.length >= MOST_TRACKS)
    throw new OrvidError(
      'invalid-input',
      `“${fileName}” was not read: a song has at most ${MOST_TRACKS} tracks.`,
      'The song is as it was.',
    );
  const { uploadId } = facts;
  return startJob(
    { songId, name: fileName, uploadId },
    { kind: 'import', upload: path.basename(upload), fileName, facts },
  );
}

async function importRecording(
  { id: jobId, songId }: Pick<Job, 'id' | 'songId'>,
  { upload: uploadName, fileName, facts }: ImportTask,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const editId = `import-${jobId}`;
  const upload = incomingPath(uploadName);
  const pages = await temporaryPath();
  try {
    const { song } = await loadSong(songId);
    // A crash may have come between the last step and its being written down.
    if (await isJournalled(songId, editId)) {
      if (existsSync(upload)) await settle(upload, originalPath(await fileHash(upload)));
      return { resultId: trackIdOf(jobId) };
    }
    if (!existsSync(upload))
      throw new OrvidError(
        'not-found',
        `“${fileName}” was not read: the server was stopped in the middle of it.`,
        'The song is as it was. Add the file again.',
      );
    const { rateHz } = song;
    const originalHash = await runInWorker<string>('hash', { file: upload }, signal);
    let recording: AddedRecording | undefined = await wholeRecording(recordingIdOf(originalHash, rateHz));
    const isFound = recording !== undefined;
    if (!recording) {
      const task = { source: upload, pages, fileName, rateHz, originalHash };
      const decoded = await runInWorker<DecodedRecording>('decode', task, signal, report);
      signal.throwIfAborted();
      await keepRecording(decoded, { pages, fileName, rateHz });
      recording = decoded;
    }
    signal.throwIfAborted();
    const lacking =
      isFound || facts.isAgain
        ? []
        : song.tracks.filter(({ audioId }) => audioId === recordingIdOf(originalHash, rateHz));
    const resultId = lacking.length > 0 ? `found-${jobId}` : await addTrack(songId, jobId, recording, fileName, facts);
    await settle(upload, originalPath(originalHash));
    return { resultId, ...(lacking.length > 0 && { remark: foundRemark(fileName, lacking) }) };
  } finally {
    await discard(pages, ...(areJobsLeft() ? [] : [upload]));
  }
}
setRunner('import', importRecording);

/** What is said of a file whose recording tracks of the song lacked. */
const foundRemark = (fileName: string, tracks: readonly { name: string }[]) =>
  `“${fileName}” is the recording that was missing of ${tracks.map(({ name }) => `“${name}”`).join(', ')}: it is there again. Open the song anew to hear it.`;

/** What a track needs to know of its recording. */
type AddedRecording = Pick<DecodedRecording, 'audioId' | 'channels' | 'lengthFrames'>;

/** A recording that was imported before, from the same content at the same rate, where it is not damaged. */
async function wholeRecording(audioId: string): Promise<AddedRecording | undefined> {
  const row = await findAudio(audioId);
  if (!row || (await faultOf(row))) return undefined;
  return { audioId, channels: row.channels as 1 | 2, lengthFrames: row.lengthFrames };
}

/** Puts a decoded recording into the store. */
export async function keepRecording(
  decoded: DecodedRecording,
  from: { pages: string; fileName: string; rateHz: number },
): Promise<void> {
  await settle(from.pages, pagesPath(decoded.audioId));
  const { measured, audioId, ...facts } = decoded;
  await registerAudio({ id: audioId, originalName: from.fileName, rateHz: from.rateHz, ...facts });
  await keepMeasured(audioId, measured);
}

/** @throws OrvidError `conflict` when a track of the song plays this very recording */
async function refuseKnown(songId: string, audioId: string, fileName: string): Promise<void> {
  const { song } = await loadSong(songId);
  const known = song.tracks.find((track) => track.audioId === audioId);
  if (known)
    throw new OrvidError(
      'conflict',
      `“${fileName}” is in the song already, as “${known.name}”.`,
      'It was not added a second time.',
    );
}

/** The tracks that came of a drop so far. */
const drops = () => singleton('drops', () => new Map<string, { place: number; trackId: string }[]>());
const DROPS_KEPT = 100;

/** Where the track of a file belongs: before the first track of a later file of its drop, or at the end. */
function placeInDrop(tracks: readonly { id: string }[], drop: ImportTask['facts']['drop']): number {
  const later = (drops().get(drop?.id ?? '') ?? []).filter(({ place }) => place > drop!.place);
  const at = tracks.findIndex(({ id }) => later.some(({ trackId }) => trackId === id));
  return at < 0 ? tracks.length : at;
}

function rememberDrop(drop: ImportTask['facts']['drop'], trackId: string): void {
  if (!drop) return;
  const known = drops();
  known.set(drop.id, [...(known.get(drop.id) ?? []), { place: drop.place, trackId }]);
  for (const id of [...known.keys()].slice(0, Math.max(0, known.size - DROPS_KEPT))) known.delete(id);
}

/** Done twice it is one track. */
const trackIdOf = (jobId: string) => `t${jobId}`;

async function addTrack(
  songId: string,
  jobId: string,
  recording: AddedRecording,
  fileName: string,
  { drop, isAgain = false }: ImportTask['facts'],
): Promise<string> {
  if (!isAgain) await refuseKnown(songId, recording.audioId, fileName);
  const { song } = await loadSong(songId);
  const { audioId, channels, lengthFrames } = recording;
  const track = newTrack(
    { audioId, channels, lengthFrames },
    { id: trackIdOf(jobId), name: trackNameOf(fileName), ink: song.tracks.length },
  );
  const [outcome] = await submitEdits(songId, 'import', [
    { id: `import-${jobId}`, edit: { kind: 'track.add', track, index: placeInDrop(song.tracks, drop) } },
  ]);
  if ('error' in outcome)
    throw new OrvidError('conflict', `“${fileName}” was read, but could not be added: ${outcome.error.message}`);
  rememberDrop(drop, track.id);
  return track.id;
}
