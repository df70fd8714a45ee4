import { createWriteStream, existsSync } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asOrvidError, isOfDisk, OrvidError } from '@/core/errors';
import { MOST_TRACKS, newTrack, type SingleEdit } from '@/core/song';
import { fileHash } from '../audio/checksum';
import { discard, incomingPath, originalPath, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import type { ImportTask, Job, JobResult } from '../jobs/job';
import { areJobsLeft, setRunner, startJob, type Report } from '../jobs/jobs';
import { singleton } from '../singleton';
import { isJournalled, loadSong, submitEdits } from '../songs/store';
import { piecesOf, type Piece } from './pieces';
import { readRecording, type ReadRecording } from './read-recording';

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
    if (isOfDisk(error)) throw error;
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
    pieces = await piecesOf(upload, { fileName, atSeconds: facts.atSeconds }, temporary, signal);
    if (isJournalledAlready) {
      for (const { file } of pieces) await settle(file, originalPath(await fileHash(file)));
      return { resultId: trackIdOf(jobId) };
    }
    const read: (ReadRecording & Piece)[] = [];
    for (const [i, piece] of pieces.entries()) {
      const tell: Report = (step, progress) => report(step, (i + progress) / pieces.length);
      const from = { file: piece.file, fileName, rateHz: song.rateHz };
      read.push({ ...piece, ...(await readRecording(from, signal, tell)) });
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

setRunner('import', importRecording);

/** What is said of a file whose recording tracks of the song lacked. */
const foundRemark = (fileName: string, tracks: readonly { name: string }[]) =>
  `“${fileName}” is the recording that was missing of ${tracks.map(({ name }) => `“${name}”`).join(', ')}: it is there again. Open the song anew to hear it.`;

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
  pieces: readonly (ReadRecording & Piece)[],
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
