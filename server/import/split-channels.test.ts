import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { findAudio, originalPath } from '../audio/store';
import { findJob, jobsEnded } from '../jobs/jobs';
import { createEmptySong, loadSong } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { receiveUpload, startImport } from './import-track';

/** WAV files that other programs have written: sox. */
const folder = ownDataFolder();
const at = (name: string) => path.join(folder, name);
const sox = (...args: string[]) => execFileSync('sox', args);
const samples = (file: string) => execFileSync('sox', [file, '-t', 's32', '-'], { maxBuffer: 1 << 26 });

async function imported(file: string, atSeconds?: number, fileName = 'Session 3.wav') {
  const { id } = await createEmptySong('Channels', 48000);
  const upload = await receiveUpload(new Blob([new Uint8Array(readFileSync(file))]).stream(), fileName);
  const job = await startImport(id, upload, fileName, { atSeconds });
  await jobsEnded();
  return { job: await findJob(job.id), song: (await loadSong(id)).song };
}

/** Puts a chunk before the samples. */
function withChunk(file: string, name: string, body: string): string {
  const bytes = readFileSync(file);
  const data = bytes.indexOf('data', 12);
  const length = Buffer.alloc(4);
  length.writeUInt32LE(body.length);
  const chunk = Buffer.concat([Buffer.from(name), length, Buffer.from(body), Buffer.alloc(body.length % 2)]);
  const made = Buffer.concat([bytes.subarray(0, data), chunk, bytes.subarray(data)]);
  made.writeUInt32LE(made.length - 8, 4);
  const out = file.replace('.wav', '-named.wav');
  writeFileSync(out, made);
  return out;
}

beforeAll(() => {
  [200, 400, 800].forEach((hz, i) =>
    sox('-n', '-r', '48000', '-b', '24', '-c', '1', at(`one-${i}.wav`), 'synth', '0.5', 'sine', String(hz)),
  );
  sox('-M', at('one-0.wav'), at('one-1.wav'), at('one-2.wav'), at('three.wav'));
});

test.each(['pcm_s24be', 'pcm_s16le'])(
  'channels of an AIFF file of %s become tracks of their own, sample for sample, after silence',
  async (codec) => {
    const ffmpeg = (from: string, to: string) =>
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', at(from), '-c:a', codec, at(to)]);
    ffmpeg('three.wav', 'three.aiff');
    const { job, song } = await imported(at('three.aiff'), 0.25, 'Session 4.aiff');
    expect(job).toMatchObject({ state: 'done' });
    expect(song.tracks.map(({ name, channels }) => `${name} ${channels}`)).toEqual([
      'Session 4 1 1',
      'Session 4 2 1',
      'Session 4 3 1',
    ]);
    for (const [i, { audioId }] of song.tracks.entries()) {
      ffmpeg(`one-${i}.wav`, 'alone.aiff');
      writeFileSync(at('back.wav'), readFileSync(originalPath((await findAudio(audioId))!.originalHash)));
      const found = samples(at('back.wav'));
      expect(found.subarray(0, 4 * 12000).every((byte) => byte === 0)).toBe(true);
      expect(found.subarray(4 * 12000).equals(samples(at('alone.aiff')))).toBe(true);
    }
  },
);

test('channels of one file become tracks of their own, sample for sample, named as the file names them', async () => {
  const track = (place: number, name: string) =>
    `<TRACK><INTERLEAVE_INDEX>${place}</INTERLEAVE_INDEX><NAME>${name}</NAME></TRACK>`;
  const named = withChunk(
    at('three.wav'),
    'iXML',
    `<BWFXML><TRACK_LIST>${track(1, 'Kick')}${track(3, 'Voice')}</TRACK_LIST></BWFXML>`,
  );
  const { job, song } = await imported(named);
  expect(job).toMatchObject({ state: 'done', resultId: song.tracks[0].id });
  expect(song.tracks.map(({ name, channels }) => `${name} ${channels}`)).toEqual([
    'Kick 1',
    'Session 3 2 1',
    'Voice 1',
  ]);
  for (const [i, { audioId }] of song.tracks.entries()) {
    const { originalHash } = (await findAudio(audioId))!;
    const file = at(`back-${i}.wav`);
    writeFileSync(file, readFileSync(originalPath(originalHash)));
    expect(samples(file).equals(samples(at(`one-${i}.wav`)))).toBe(true);
  }
});

test('a file that begins later than the song has silence before it, and its samples after that', async () => {
  const { song } = await imported(at('one-1.wav'), 1.25);
  expect(song.tracks).toHaveLength(1);
  expect(song.tracks[0].lengthFrames).toBe(48000 * 1.75);
  const { originalHash } = (await findAudio(song.tracks[0].audioId))!;
  writeFileSync(at('late.wav'), readFileSync(originalPath(originalHash)));
  const late = samples(at('late.wav'));
  const lead = 48000 * 1.25 * 4;
  expect(late.subarray(0, lead).every((byte) => byte === 0)).toBe(true);
  expect(late.subarray(lead).equals(samples(at('one-1.wav')))).toBe(true);
});

test('the name of its one channel names a mono track; the file does where there is none', async () => {
  const named = withChunk(at('one-2.wav'), 'iXML', '<TRACK_LIST><TRACK><NAME>Fiddle</NAME></TRACK></TRACK_LIST>');
  expect((await imported(named)).song.tracks[0].name).toBe('Fiddle');
  expect((await imported(at('one-0.wav'))).song.tracks[0].name).toBe('Session 3');
});
