import { execFileSync } from 'node:child_process';
import { createWriteStream, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';
import { PcmEncoder, seededRandom, wavHeader } from '@/core/formats';
import { emptySong, newBus, newTrack, type Song } from '@/core/song';
import { fileHash, recordingIdOf } from '../audio/checksum';
import { originalPath, pagesPath } from '../audio/store';
import { receiveUpload, startImport } from '../import/import-track';
import { findJob, jobsEnded } from '../jobs/jobs';
import { findFinished } from '../render/finished';
import { measureSongPart } from '../render/measure-song';
import { createEmptySong, listSongs, loadSong } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { startPacking, startUnpacking } from './bundle-job';
import { BUNDLE_VERSION, entryName, MANIFEST_NAME, type Manifest } from './manifest';
import { packSong } from './pack';
import { unpackSong } from './unpack';

process.env.ORVID_MAX_UPLOAD_MIB = '4';
const folder = ownDataFolder();
const at = (name: string) => path.join(folder, name);
const quiet = () => undefined;

function wav(seed: number, frames = 4800): Buffer {
  const random = seededRandom(seed);
  const samples = Float64Array.from({ length: frames }, () => 0.5 * (random() - 0.5));
  return Buffer.concat([
    wavHeader({ channels: 1, rateHz: 48000, format: '16', frames }),
    new PcmEncoder(1, '16').encode([samples], frames),
  ]);
}

/** A zip with these files in it. */
async function zipped(name: string, files: Record<string, Buffer | string>, forceZip64Format = false): Promise<string> {
  const zip = new ZipFile();
  for (const [entry, content] of Object.entries(files))
    zip.addBuffer(Buffer.from(content), entry, { compress: false, forceZip64Format });
  zip.end({ forceZip64Format, comment: '' });
  await pipeline(zip.outputStream, createWriteStream(at(name)));
  return at(name);
}

/** A small song with two recordings, packed. */
async function smallBundle(): Promise<{ file: string; song: Song; manifest: Manifest }> {
  const originals = await Promise.all(
    [1, 2].map(async (seed) => {
      const file = at(`small-${seed}.wav`);
      writeFileSync(file, wav(seed, 480));
      const sha256 = await fileHash(file);
      return { audioId: recordingIdOf(sha256, 48000), sha256, name: `Viola ${seed}.wav`, path: file };
    }),
  );
  const song: Song = {
    ...emptySong('Small', 48000),
    tracks: originals.map(({ audioId }, i) =>
      newTrack({ audioId, channels: 1, lengthFrames: 480 }, { id: `t${i}`, name: `Viola ${i + 1}`, ink: i }),
    ),
  };
  const file = at('small.orvid.zip');
  rmSync(file, { force: true });
  await packSong({ song, originals, out: file }, quiet);
  const { manifest } = await unpackSong(task(file, 'first'), quiet);
  return { file, song, manifest };
}
const task = (file: string, into: string) => ({
  file,
  name: 'song.zip',
  known: [],
  folder: at(`${into}-out`),
  roomBytes: 1e9,
  mostBytes: 4 << 20,
});

async function unpacked(file: string) {
  const upload = await receiveUpload(new Response(readFileSync(file)).body, 'song.zip');
  const { id, songId } = await startUnpacking(upload, 'song.zip');
  await jobsEnded();
  return { job: await findJob(id), songId };
}

test('a song goes out as one file and comes back as another song with the same document and recordings', async () => {
  const { id } = await createEmptySong('Lantern Ferry', 48000);
  for (const [i, name] of ['Cello.wav', 'Low Whistle.wav'].entries())
    await startImport(id, await receiveUpload(new Blob([new Uint8Array(wav(i + 10))]).stream(), name), name);
  await jobsEnded();
  const { song } = await loadSong(id);
  const job = await startPacking(id);
  await jobsEnded();
  expect(await findJob(job.id)).toMatchObject({ state: 'done', name: 'Lantern-Ferry.orvid.zip' });
  const { file } = await findFinished(job.id);
  expect(execFileSync('unzip', ['-t', file], { encoding: 'utf8' })).toContain('No errors detected');
  // Another machine has none of it.
  for (const { audioId } of song.tracks) rmSync(pagesPath(audioId));
  const hashes = song.tracks.map(({ audioId }) => audioId);
  for (const name of readdirSync(at('audio/originals'))) rmSync(originalPath(name));
  const { job: opened, songId } = await unpacked(file);
  expect(opened).toMatchObject({ state: 'done', resultId: songId });
  expect(opened.remark).toBeUndefined();
  expect((await loadSong(songId)).song).toEqual(song);
  for (const audioId of hashes) expect(existsSync(pagesPath(audioId))).toBe(true);
  expect(readdirSync(at('audio/originals'))).toHaveLength(2);
  expect(readdirSync(at('incoming'))).toEqual([]);
});

test('the same song is the same file', async () => {
  const { file } = await smallBundle();
  const bytes = readFileSync(file);
  expect(readFileSync((await smallBundle()).file).equals(bytes)).toBe(true);
});

test('what is missing or not what it was is named; the song is opened with what is there, and the file given later is taken for it', async () => {
  const { manifest } = await smallBundle();
  const [first, second] = manifest.recordings;
  const file = await zipped('lacking.zip', {
    [MANIFEST_NAME]: JSON.stringify(manifest),
    [first.file]: wav(77, 480),
  });
  const { job, songId } = await unpacked(file);
  expect(job).toMatchObject({ state: 'done' });
  expect(job.remark).toContain(`“${first.name}” (it is not what was packed)`);
  expect(job.remark).toContain(`“${second.name}” (it is not in the bundle)`);
  // What would need them says of which tracks.
  const measured = () => measureSongPart(songId, 'master', {}, new AbortController().signal);
  await expect(measured()).rejects.toMatchObject({
    code: 'not-found',
    message: 'The recordings of “Viola 1”, “Viola 2” are not here.',
    kept: expect.stringContaining('Drop the files on the song'),
  });
  const found = await startImport(
    songId,
    await receiveUpload(new Blob([new Uint8Array(wav(2, 480))]).stream(), 'any.wav'),
    'any.wav',
  );
  await jobsEnded();
  expect(await findJob(found.id)).toMatchObject({
    state: 'done',
    remark: expect.stringContaining('missing of “Viola 2”'),
  });
  const { song } = await loadSong(songId);
  expect(song.tracks).toHaveLength(2);
  expect(existsSync(pagesPath(song.tracks[1].audioId))).toBe(true);
  await expect(measured()).rejects.toMatchObject({ message: 'The recording of “Viola 1” is not here.' });
});

test.each<[string, (manifest: Manifest) => object, string]>([
  ['a newer bundle', (manifest) => ({ ...manifest, version: BUNDLE_VERSION + 1 }), 'newer Orvid'],
  ['a newer song', (manifest) => ({ ...manifest, song: { ...manifest.song, version: 99 } }), 'newer Orvid'],
  ['something else', () => ({ format: 'letters' }), 'no song that Orvid has packed'],
  [
    'a hash that is none',
    (manifest) => ({ ...manifest, recordings: [{ ...manifest.recordings[0], sha256: 'x' }] }),
    'SHA-256',
  ],
  [
    'a circle of groups',
    (manifest) => ({
      ...manifest,
      song: {
        ...manifest.song,
        buses: ['a', 'b'].map((id, i) => ({ ...newBus({ id, name: id, ink: 0 }), outputId: ['b', 'a'][i] })),
      },
    }),
    'song:',
  ],
])('%s is refused in words, and no song is made', async (_, change, words) => {
  const { manifest } = await smallBundle();
  const before = await listSongs();
  const file = await zipped('refused.zip', { [MANIFEST_NAME]: JSON.stringify(change(manifest)) });
  const { job } = await unpacked(file);
  expect(job).toMatchObject({ state: 'failed', error: { message: expect.stringContaining(words) } });
  expect(job.error!.kept).toContain('No song was made of it');
  expect(await listSongs()).toEqual(before);
});

test('a song that says something else of a recording than it is, is refused', async () => {
  const { manifest } = await smallBundle();
  const [first, second] = manifest.recordings;
  const song = { ...manifest.song, tracks: manifest.song.tracks.map((track) => ({ ...track, lengthFrames: 1e9 })) };
  const file = await zipped('longer.zip', {
    [MANIFEST_NAME]: JSON.stringify({ ...manifest, song }),
    [first.file]: wav(1, 480),
    [second.file]: wav(2, 480),
  });
  const before = await listSongs();
  const { job } = await unpacked(file);
  expect(job).toMatchObject({
    state: 'failed',
    error: { message: expect.stringContaining('length or channels differ') },
  });
  expect(await listSongs()).toEqual(before);
});

// One of 4.8 GB was written and read by hand; its form is that of any zip of 64 bits.
test('a zip of 64 bits is read as any other', async () => {
  const { manifest } = await smallBundle();
  const recordings = manifest.recordings.map(({ file }, i) => [file, wav(i + 1, 480)]);
  const file = await zipped(
    'long.zip',
    { [MANIFEST_NAME]: JSON.stringify(manifest), ...Object.fromEntries(recordings) },
    true,
  );
  expect(readFileSync(file).includes(Buffer.from('504b0606', 'hex'))).toBe(true);
  const { files, missing } = await unpackSong(task(file, 'long'), quiet);
  expect(missing).toEqual([]);
  expect(Object.keys(files)).toHaveLength(2);
});

test('names that lead elsewhere, other files and recordings that are too large do no harm', async () => {
  const { manifest } = await smallBundle();
  const [first] = manifest.recordings;
  const evil = { ...manifest, recordings: [{ ...first, file: '../../evil.wav' }] };
  const other = await zipped('other.zip', { [MANIFEST_NAME]: JSON.stringify(evil), 'readme.txt': 'hello' });
  expect((await unpackSong(task(other, 'other'), quiet)).missing.map(({ why }) => why)).toContain(
    'it is not in the bundle',
  );
  // The name in the zip itself, which the library that writes it would refuse.
  const bytes = readFileSync(
    await zipped('path.zip', { [MANIFEST_NAME]: JSON.stringify(evil), 'ab/cd/evil.wav': 'x' }),
  );
  const path = at('path-2.zip');
  writeFileSync(path, Buffer.from(bytes.toString('latin1').replaceAll('ab/cd/evil.wav', '../../evil.wav'), 'latin1'));
  await expect(unpackSong(task(path, 'path'), quiet)).rejects.toMatchObject({ code: 'invalid-input' });
  const large = await zipped('large.zip', {
    [MANIFEST_NAME]: JSON.stringify(manifest),
    [first.file]: Buffer.alloc(5 << 20),
  });
  expect((await unpackSong(task(large, 'large'), quiet)).missing[0].why).toContain('larger than 4 MiB');
  await expect(unpackSong({ ...task(large, 'room'), roomBytes: 10, mostBytes: 1e9 }, quiet)).rejects.toMatchObject({
    code: 'too-large',
  });
  expect(existsSync(at('../evil.wav')) || existsSync(at('evil.wav'))).toBe(false);
});

test('names of recordings in a bundle are plain, and never two of one', () => {
  expect(entryName(0, '../../Über Größe.WAV')).toBe('recordings/001-Über-Größe.WAV');
  expect(entryName(11, '.wav')).toBe('recordings/012-wav');
  expect(entryName(2, '///')).toBe('recordings/003-recording');
});

test('2,000 bundles that were damaged in transit: each is opened with what is there, or refused in words', async () => {
  const { file } = await smallBundle();
  const whole = readFileSync(file);
  const random = seededRandom(2026);
  const whole32 = (most: number) => Math.floor(random() * most);
  const outside = readdirSync(folder).filter((name) => !name.includes('-out'));
  let opened = 0;
  let refused = 0;
  for (let i = 0; i < 2000; i++) {
    let bytes = Buffer.from(whole);
    const kind = i % 4;
    if (kind === 0) bytes = bytes.subarray(0, whole32(bytes.length));
    else if (kind === 1)
      bytes = Buffer.concat([bytes.subarray(0, whole32(bytes.length)), bytes.subarray(whole32(bytes.length))]);
    // The directory at the end is where most of what is said of the files stands.
    else
      for (let n = 0; n <= i % 5; n++)
        bytes[kind === 2 ? whole32(bytes.length) : bytes.length - 1 - whole32(400)] = whole32(256);
    const name = at('mutated.zip');
    writeFileSync(name, bytes);
    try {
      const { files, missing } = await unpackSong(task(name, 'mutated'), quiet);
      expect(Object.keys(files).length + missing.length).toBe(2);
      for (const [audioId, taken] of Object.entries(files)) {
        expect(recordingIdOf(await fileHash(taken), 48000)).toBe(audioId);
        rmSync(taken);
      }
      opened++;
    } catch (thrown) {
      expect(['invalid-input', 'conflict', 'too-large']).toContain((thrown as { code?: string }).code);
      refused++;
    }
  }
  expect(opened).toBeGreaterThan(100);
  expect(refused).toBeGreaterThan(500);
  expect(readdirSync(folder).filter((name) => name.includes('mutated-out'))).toEqual([]);
  expect(readdirSync(folder).filter((name) => !name.includes('-out') && name !== 'mutated.zip')).toEqual(outside);
});
