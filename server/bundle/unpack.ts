import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { promisify } from 'node:util';
import * as yauzl from 'yauzl';
import { asOrvidError, isOfDisk, OrvidError } from '@/core/errors';
import { recordingIdOf } from '../audio/checksum';
import { discard } from '../audio/store';
import {
  MANIFEST_NAME,
  MOST_ENTRIES,
  MOST_MANIFEST_BYTES,
  readManifest,
  recordingsOf,
  type Manifest,
} from './manifest';

export interface UnpackTask {
  /** The bundle. */
  file: string;
  /** What it is called in messages. */
  name: string;
  /** Recordings, by their ids, that need not be taken out. */
  known: string[];
  /** A file for each recording that is taken out, by the place in the manifest: they must not exist. */
  folder: string;
  /** Bytes that there is room for, and that one recording may have. */
  roomBytes: number;
  mostBytes: number;
}

export interface Unpacked {
  manifest: Manifest;
  /** What was taken out, by the ids of the recordings. */
  files: Record<string, string>;
  /** Recordings that are not there, or are not what they should be, in words. */
  missing: { audioId: string; name: string; why: string }[];
}

const open = promisify<string, yauzl.Options, yauzl.ZipFile>(yauzl.open);

const refused = (name: string, problem: string) =>
  new OrvidError('invalid-input', `${name}: ${problem}.`, 'No song was made of it.');

/** The entries of a bundle by their names. @throws OrvidError `invalid-input` */
async function entriesOf(zip: yauzl.ZipFile, name: string): Promise<Map<string, yauzl.Entry>> {
  if (zip.entryCount > MOST_ENTRIES) throw refused(name, `it holds ${zip.entryCount} files, and that is no song`);
  const entries = new Map<string, yauzl.Entry>();
  await new Promise<void>((resolve, reject) => {
    zip.on('error', reject);
    zip.on('end', resolve);
    zip.on('entry', (entry: yauzl.Entry) => {
      if (entries.has(entry.fileName)) {
        reject(refused(name, `it holds “${entry.fileName.slice(0, 80)}” twice`));
        return;
      }
      entries.set(entry.fileName, entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
  return entries;
}

const streamOf = (zip: yauzl.ZipFile, entry: yauzl.Entry): Promise<Readable> =>
  new Promise((resolve, reject) =>
    zip.openReadStream(entry, (error, stream) => (error ? reject(error) : resolve(stream))),
  );

async function manifestOf(zip: yauzl.ZipFile, entries: Map<string, yauzl.Entry>, name: string): Promise<Manifest> {
  const entry = entries.get(MANIFEST_NAME);
  if (!entry) throw refused(name, `there is no ${MANIFEST_NAME} in it: this is no song that Orvid has packed`);
  if (entry.uncompressedSize > MOST_MANIFEST_BYTES) throw refused(name, `its ${MANIFEST_NAME} is too long for a song`);
  const pieces: Buffer[] = [];
  for await (const piece of await streamOf(zip, entry)) pieces.push(piece as Buffer);
  return readManifest(Buffer.concat(pieces).toString('utf8'), name);
}

/** Writes an entry to a file. @returns its SHA-256 */
async function takeOut(
  zip: yauzl.ZipFile,
  entry: yauzl.Entry,
  to: string,
  tell: (bytes: number) => void,
): Promise<string> {
  const hash = createHash('sha256');
  const watch = new Transform({
    transform(chunk: Buffer, _, next) {
      hash.update(chunk);
      tell(chunk.length);
      next(null, chunk);
    },
  });
  await pipeline(await streamOf(zip, entry), watch, createWriteStream(to, { flags: 'wx' }));
  return hash.digest('hex');
}

/**
 * Looks into a bundle and takes out the recordings that are not known yet. Nothing in it is ever a path; no more is written than it says and
 * there is room for.
 * @throws OrvidError `invalid-input`, `conflict` for one of a newer version, `too-large`
 */
export async function unpackSong(
  { file, name, known, folder, roomBytes, mostBytes }: UnpackTask,
  report: (step: string, progress: number) => void,
): Promise<Unpacked> {
  const zip = await open(file, { lazyEntries: true, autoClose: false, validateEntrySizes: true }).catch(
    (thrown: Error) => {
      throw refused(name, `it cannot be read as a zip file (${thrown.message})`);
    },
  );
  const files: Record<string, string> = {};
  try {
    const entries = await entriesOf(zip, name);
    const manifest = await manifestOf(zip, entries, name);
    const wanted = manifest.recordings.filter(({ audioId }) => !known.includes(audioId));
    const sizeOf = ({ file: entryName }: (typeof wanted)[number]) => entries.get(entryName)?.uncompressedSize ?? 0;
    const total = wanted.reduce((sum, file) => sum + (sizeOf(file) > mostBytes ? 0 : sizeOf(file)), 1);
    if (total > roomBytes)
      throw new OrvidError(
        'too-large',
        `${name} would take ${(total / 1e9).toFixed(1)} GB, and there is room for ${(roomBytes / 1e9).toFixed(1)} GB.`,
        'No song was made of it. Make room, then open it again.',
      );
    const missing: Unpacked['missing'] = [];
    let done = 0;
    for (const [i, { audioId, file: entryName, sha256, name: called }] of wanted.entries()) {
      const lost = (why: string) => missing.push({ audioId, name: called, why });
      const entry = entries.get(entryName);
      if (!entry) {
        lost('it is not in the bundle');
        continue;
      }
      if (entry.uncompressedSize > mostBytes) {
        lost(`it is larger than ${Math.round(mostBytes / 2 ** 20)} MiB`);
        continue;
      }
      if (recordingIdOf(sha256, manifest.song.rateHz) !== audioId) {
        lost('what is said of it contradicts itself');
        continue;
      }
      const to = `${folder}-${i}`;
      try {
        const found = await takeOut(zip, entry, to, (bytes) => {
          done += bytes;
          report('unpacking', done / total);
        });
        if (found === sha256) files[audioId] = to;
        else lost('it is not what was packed');
      } catch (thrown) {
        if (isOfDisk(asOrvidError(thrown))) throw thrown;
        lost('it is damaged');
      }
      if (!files[audioId]) await discard(to);
    }
    const listed = new Set([...known, ...manifest.recordings.map(({ audioId }) => audioId)]);
    for (const { audioId, trackName } of recordingsOf(manifest.song))
      if (!listed.has(audioId)) missing.push({ audioId, name: trackName, why: 'the bundle does not list it' });
    return { manifest, files, missing };
  } catch (thrown) {
    await discard(...Object.values(files));
    if (thrown instanceof OrvidError || isOfDisk(asOrvidError(thrown))) throw thrown;
    throw refused(name, `it is damaged, or not what it seems (${(thrown as Error).message})`);
  } finally {
    zip.close();
  }
}
