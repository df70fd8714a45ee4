import { createWriteStream, existsSync } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asOrvidError, OrvidError } from '@/core/errors';
import { MOST_TRACKS, newTrack, type SingleEdit } from '@/core/song';
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
import { database } from '../database/client';
import type { ImportTask, Job, JobResult } from '../jobs/job';
import { areJobsLeft, setRunner, startJob, type Report } from '../jobs/jobs';
import { singleton } from '../singleton';
import { isJournalled, loadSong, submitEdits } from '../songs/store';
import { runInWorker } from '../workers/pool';
import type { DecodedRecording } from './decode-recording';
import { MOST_CHANNELS, splitWav, wavFacts } from './split-wav';

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

/** A file that becomes one track, and what the track is called. */
interface Piece {
  file: string;
  name: string;
}

/**
 * The files that an upload becomes: itself; or, of a WAV file with many channels, one of each; or one with silence before it, where it begins
 * later than the song.
 */
async function piecesOf(
  upload: string,
  { fileName, facts: { atSeconds = 0 } }: Pick<ImportTask, 'fileName' | 'facts'>,
  temporary: string,
  signal: AbortSignal,
): Promise<Piece[]> {
  const whole = trackNameOf(fileName);
  const facts = await wavFacts(upload);
  if (!facts) return [{ file: upload, name: whole }];
  const { info, notes } = facts;
  const isMany = info.channels > 2 && info.channels <= MOST_CHANNELS;
  const own = notes.channelNames.filter(Boolean);
  if (!isMany && atSeconds === 0) return [{ file: upload, name: (info.channels === 1 && own[0]) || whole }];
  const groups = isMany
    ? Array.from({ length: info.channels }, (_, channel) => [channel])
    : [Array.from({ length: info.channels }, (_, channel) => channel)];
  const pieces = groups.map((group, i) => ({
    file: `${temporary}-${i}`,
    name: isMany ? notes.channelNames[group[0]] || `${whole} ${i + 1}` : (info.channels === 1 && own[0]) || whole,
  }));
  const leadFrames = Math.round(atSeconds * info.rateHz);
  await splitWav(
    upload,
    info,
    groups,
    pieces.map(({ file }) => file),
    leadFrames,
    signal,
  );
  return pieces;
}

async function importRecording(
  { id: jobId, songId }: Pick<Job, 'id' | 'songId'>,
  task: ImportTask,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const { upload: uploadName, fileName, facts } = task;
  const upload = incomingPath(uploadName);
  const temporary = await temporaryPath();
  let pieces: Piece[] = [];
  try {
    const { song } = await loadSong(songId);
    const isJournalledAlready = await isJournalled(songId, `import-${jobId}`);
    if (!isJournalledAlready && !existsSync(upload))
      throw new OrvidError(
        'not-found',
        `“${fileName}” was not read: the server was stopped in the middle of it.`,
        'The song is as it was. Add the file again.',
      );
    // A crash may have come between the last step and its being written down.
    if (!existsSync(upload)) return { resultId: trackIdOf(jobId) };
    pieces = await piecesOf(upload, task, temporary, signal);
    if (isJournalledAlready) {
      for (const { file } of pieces) await settle(file, originalPath(await fileHash(file)));
      return { resultId: trackIdOf(jobId) };
    }
    const read: (ReadPiece & Piece)[] = [];
    for (const [i, piece] of pieces.entries()) {
      const tell: Report = (step, progress) => report(step, (i + progress) / pieces.length);
      read.push({ ...piece, ...(await readPiece(piece, fileName, song.rateHz, signal, tell)) });
    }
    signal.throwIfAborted();
    const isNew = read.some(({ isFound }) => isFound) || facts.isAgain;
    const ids = new Set(read.map(({ recording }) => recording.audioId));
    const lacking = isNew ? [] : song.tracks.filter(({ audioId }) => ids.has(audioId));
    const resultId = lacking.length > 0 ? `found-${jobId}` : await addTracks(songId, jobId, read, fileName, facts);
    for (const { file, originalHash } of read) await settle(file, originalPath(originalHash));
    return { resultId, ...(lacking.length > 0 && { remark: foundRemark(fileName, lacking) }) };
  } finally {
    await discard(
      ...pieces.map(({ file }) => file).filter((file) => file !== upload),
      ...(areJobsLeft() ? [] : [upload]),
    );
  }
}

/** A piece as it lies in the store. */
interface ReadPiece {
  recording: AddedRecording;
  originalHash: string;
  /** True where it was there before, whole. */
  isFound: boolean;
}

async function readPiece(
  { file }: Piece,
  fileName: string,
  rateHz: number,
  signal: AbortSignal,
  report: Report,
): Promise<ReadPiece> {
  const originalHash = await runInWorker<string>('hash', { file }, signal);
  const known = await wholeRecording(recordingIdOf(originalHash, rateHz));
  if (known) return { recording: known, originalHash, isFound: true };
  const pages = await temporaryPath();
  try {
    const task = { source: file, pages, fileName, rateHz, originalHash };
    const decoded = await runInWorker<DecodedRecording>('decode', task, signal, report);
    signal.throwIfAborted();
    await keepRecording(decoded, { pages, fileName, rateHz });
    return { recording: decoded, originalHash, isFound: false };
  } finally {
    await discard(pages);
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
  // Opened first: an empty database beside recordings is taken for one that was lost.
  await database();
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

/** One edit, however many tracks it brings. */
async function addTracks(
  songId: string,
  jobId: string,
  pieces: readonly (ReadPiece & Piece)[],
  fileName: string,
  { drop, isAgain = false }: ImportTask['facts'],
): Promise<string> {
  if (!isAgain) for (const { recording } of pieces) await refuseKnown(songId, recording.audioId, fileName);
  const { song } = await loadSong(songId);
  const place = placeInDrop(song.tracks, drop);
  const edits = pieces.map(({ recording: { audioId, channels, lengthFrames }, name }, i): SingleEdit => {
    const id = i === 0 ? trackIdOf(jobId) : `${trackIdOf(jobId)}-${i + 1}`;
    const track = newTrack({ audioId, channels, lengthFrames }, { id, name, ink: song.tracks.length + i });
    return { kind: 'track.add', track, index: place + i };
  });
  const [outcome] = await submitEdits(songId, 'import', [
    { id: `import-${jobId}`, edit: edits.length === 1 ? edits[0] : { kind: 'batch', edits } },
  ]);
  if ('error' in outcome)
    throw new OrvidError('conflict', `“${fileName}” was read, but could not be added: ${outcome.error.message}`);
  rememberDrop(drop, trackIdOf(jobId));
  return trackIdOf(jobId);
}
