import { createWriteStream } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { OrvidError } from '@/core/errors';
import { newId, newTrack } from '@/core/song';
import { keepMeasured } from '../audio/measured';
import { discard, originalPath, pagesPath, registerAudio, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import { startJob, type Job } from '../jobs/jobs';
import { singleton } from '../singleton';
import { loadSong, submitEdits } from '../songs/store';
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

/**
 * Streams an upload to a temporary file.
 * @throws OrvidError `too-large`, `cancelled` when the page broke it off; nothing is left behind then
 */
export async function receiveUpload(
  body: ReadableStream<Uint8Array> | null,
  fileName: string,
  signal?: AbortSignal,
): Promise<string> {
  if (!body) throw new OrvidError('invalid-input', `“${fileName}” arrived without content.`);
  const { maxUploadBytes } = config();
  const file = await temporaryPath();
  let bytes = 0;
  const limit = new Transform({
    transform(chunk: Buffer, _, done) {
      bytes += chunk.length;
      if (bytes <= maxUploadBytes) done(null, chunk);
      else
        done(
          new OrvidError(
            'too-large',
            `“${fileName}” is larger than ${Math.round(maxUploadBytes / 2 ** 20)} MiB, the limit for one file.`,
            'The song is as it was. ORVID_MAX_UPLOAD_MIB raises the limit.',
          ),
        );
    },
  });
  try {
    await pipeline(
      Readable.fromWeb(body as Parameters<typeof Readable.fromWeb>[0]),
      limit,
      createWriteStream(file, { flags: 'wx' }),
      { signal },
    );
    return file;
  } catch (thrown) {
    await discard(file);
    if (thrown instanceof OrvidError) throw thrown;
    throw new OrvidError('cancelled', `The upload of “${fileName}” broke off.`, 'Nothing of it was kept.');
  }
}

/** What the window says of an upload. */
export interface UploadFacts {
  /** What the window calls it. */
  uploadId?: string;
  /** The drop that it came with, and its place among the files of that drop: their tracks stand in this order, whichever is read first. */
  drop?: { id: string; place: number };
  /** True to take a recording in although a track of the song plays it already. */
  isAgain?: boolean;
}

/** Starts the import of an uploaded file as a new track: at the end of the song, or in its place among those of its drop. */
export async function startImport(
  songId: string,
  upload: string,
  fileName: string,
  facts: UploadFacts = {},
): Promise<Job> {
  const { song } = await loadSong(songId);
  const { uploadId } = facts;
  return startJob({ songId, kind: 'import', name: fileName, uploadId }, async (signal, report) => {
    const pages = await temporaryPath();
    try {
      const decoded = await runInWorker<DecodedRecording>(
        'decode',
        { source: upload, pages, fileName, rateHz: song.rateHz },
        signal,
        report,
      );
      signal.throwIfAborted();
      await keepRecording(decoded, { upload, pages, fileName, rateHz: song.rateHz });
      return { resultId: await addTrack(songId, decoded, fileName, facts) };
    } finally {
      await discard(upload, pages);
    }
  });
}

/** Puts a decoded recording into the store. */
export async function keepRecording(
  decoded: DecodedRecording,
  from: { upload: string; pages: string; fileName: string; rateHz: number },
): Promise<void> {
  await settle(from.upload, originalPath(decoded.originalHash));
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
function placeInDrop(tracks: readonly { id: string }[], drop: UploadFacts['drop']): number {
  const later = (drops().get(drop?.id ?? '') ?? []).filter(({ place }) => place > drop!.place);
  const at = tracks.findIndex(({ id }) => later.some(({ trackId }) => trackId === id));
  return at < 0 ? tracks.length : at;
}

function rememberDrop(drop: UploadFacts['drop'], trackId: string): void {
  if (!drop) return;
  const known = drops();
  known.set(drop.id, [...(known.get(drop.id) ?? []), { place: drop.place, trackId }]);
  for (const id of [...known.keys()].slice(0, Math.max(0, known.size - DROPS_KEPT))) known.delete(id);
}

async function addTrack(
  songId: string,
  decoded: DecodedRecording,
  fileName: string,
  { drop, isAgain = false }: UploadFacts,
): Promise<string> {
  if (!isAgain) await refuseKnown(songId, decoded.audioId, fileName);
  const { song } = await loadSong(songId);
  const { audioId, channels, lengthFrames } = decoded;
  const track = newTrack(
    { audioId, channels, lengthFrames },
    { id: newId(12), name: trackNameOf(fileName), ink: song.tracks.length },
  );
  const [outcome] = await submitEdits(songId, 'import', [
    { id: newId(), edit: { kind: 'track.add', track, index: placeInDrop(song.tracks, drop) } },
  ]);
  if ('error' in outcome)
    throw new OrvidError('conflict', `“${fileName}” was read, but could not be added: ${outcome.error.message}`);
  rememberDrop(drop, track.id);
  return track.id;
}
