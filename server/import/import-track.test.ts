import { existsSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { readPage } from '../audio/mending';
import { bandLevelsPath, analysisPath, findAudio, pagesPath, waveformPath } from '../audio/store';
import type { Job } from '../jobs/job';
import { cancelJob, findJob } from '../jobs/jobs';
import { createEmptySong, loadSong } from '../songs/store';
import { subscribe, type SongEvent } from '../songs/events';
import { ownDataFolder } from '../testing/data-folder';
import { keptAnalysis, readAnalysis, readBandLevels, readWaveform } from '../audio/measured';
import { receiveUpload, startImport } from './import-track';
import { trackNameOf } from './pieces';

process.env.ORVID_MAX_UPLOAD_MIB = '2';
const folder = ownDataFolder();
const incoming = () => (existsSync(path.join(folder, 'incoming')) ? readdirSync(path.join(folder, 'incoming')) : []);

function wav(seconds: number): Uint8Array {
  const frames = Math.round(seconds * 48000);
  const samples = Float64Array.from({ length: frames }, (_, n) => 0.25 * Math.sin((2 * Math.PI * 440 * n) / 48000));
  return Buffer.concat([
    wavHeader({ channels: 1, rateHz: 48000, format: '24', frames }),
    new PcmEncoder(1, '24').encode([samples], frames),
  ]);
}
const body = (bytes: Uint8Array) => new Response(bytes as Uint8Array<ArrayBuffer>).body;
async function ended(job: Job): Promise<Job> {
  for (;;) {
    const now = await findJob(job.id);
    if (now.state !== 'running') return now;
    await new Promise((done) => setTimeout(done, 20));
  }
}

test.each([
  ['Lead voice_03.wav', 'Lead voice 03'],
  ['C:\\takes\\bass.final.flac', 'bass.final'],
  ['../../etc/passwd', 'passwd'],
  ['.wav', 'Track'],
  ['Tür & Tor.opus', 'Tür & Tor'],
  // A Mac holds the dots apart.
  ['Tu\u0308r.wav', 'T\u00fcr'],
  [`${'a'.repeat(119)}🎻.wav`, 'a'.repeat(119)],
])('the file %s becomes the track “%s”', (file, name) => expect(trackNameOf(file)).toBe(name));

test('what a recording is like over time is measured when it comes in, and again where it is missing or old', async () => {
  const { id } = await createEmptySong('Over time', 48000);
  await ended(await startImport(id, await receiveUpload(body(wav(1.01)), 'tone.wav'), 'tone.wav'));
  const { audioId } = (await loadSong(id)).song.tracks[0];
  // 21 steps of 50 ms have begun, of 120 bands each.
  const first = await readBandLevels(audioId);
  expect(first).toHaveLength(21 * 120);
  const analysis = await readAnalysis(audioId);
  const waveform = await readWaveform(audioId);
  // Least and greatest of every 256 frames.
  expect(waveform).toHaveLength(2 * Math.ceil((1.01 * 48000) / 256));
  for (const path of [bandLevelsPath, analysisPath, waveformPath]) rmSync(path(audioId));
  expect(await keptAnalysis(audioId)).toBeUndefined();
  const [again, second] = await Promise.all([readBandLevels(audioId), readBandLevels(audioId), readAnalysis(audioId)]);
  expect([again, second]).toEqual([first, first]);
  expect(Math.max(...first)).toBeGreaterThan(100);
  expect(await keptAnalysis(audioId)).toEqual(analysis);
  expect(await readWaveform(audioId)).toEqual(waveform);
  for (const path of [bandLevelsPath, analysisPath, waveformPath]) {
    writeFileSync(path(audioId), readFileSync(path(audioId)).subarray(0, 100));
    expect([await readBandLevels(audioId), await readAnalysis(audioId), await readWaveform(audioId)]).toEqual([
      first,
      analysis,
      waveform,
    ]);
  }
  await expect(readBandLevels('f'.repeat(64))).rejects.toMatchObject({ code: 'not-found' });
  await expect(readBandLevels('../etc')).rejects.toMatchObject({ code: 'invalid-input' });
});

test('a recording comes in: pages, analysis, a track, progress for the windows; nothing is left behind', async () => {
  const { id } = await createEmptySong('In', 48000);
  const heard: SongEvent[] = [];
  const stop = subscribe(id, (event) => heard.push(event));
  const job = await ended(await startImport(id, await receiveUpload(body(wav(2)), 'tone.wav'), 'tone.wav'));
  stop();
  expect(job).toMatchObject({ state: 'done', progress: 1, name: 'tone.wav' });
  const { song } = await loadSong(id);
  expect(song.tracks).toEqual([
    expect.objectContaining({ id: job.resultId, name: 'tone', channels: 1, lengthFrames: 96000, ink: 0 }),
  ]);
  const [{ audioId }] = song.tracks;
  expect(await findAudio(audioId)).toMatchObject({ originalName: 'tone.wav', format: 'WAV 24', rateHz: 48000 });
  expect((await readAnalysis(audioId)).samplePeakDb).toBeCloseTo(-12.04, 1);
  const page = await readPage(audioId, 1);
  expect(page.length).toBe((96000 - 65536) * 3);
  await expect(readPage(audioId, 2)).rejects.toMatchObject({ code: 'not-found' });
  expect(heard.filter((event) => event.type === 'job').length).toBeGreaterThan(1);
  expect(heard.some((event) => event.type === 'edit' && event.edit.kind === 'track.add')).toBe(true);
  expect(incoming()).toEqual([]);
});

test('the same recording twice is kept once', async () => {
  const { id } = await createEmptySong('Twice', 48000);
  for (const name of ['a.wav', 'b.wav'])
    await ended(await startImport(id, await receiveUpload(body(wav(1)), name), name, { isAgain: true }));
  const { tracks } = (await loadSong(id)).song;
  expect(tracks.map((track) => track.name)).toEqual(['a', 'b']);
  expect(tracks[0].audioId).toBe(tracks[1].audioId);
});

test('what was imported before is not decoded again, unless it is damaged', async () => {
  const wavFile = wav(1.5);
  const add = async (name: string) => {
    const { id } = await createEmptySong(name, 48000);
    expect(await ended(await startImport(id, await receiveUpload(body(wavFile), name), name))).toMatchObject({
      state: 'done',
    });
    return (await loadSong(id)).song.tracks[0];
  };
  const { audioId, lengthFrames } = await add('first.wav');
  const written = () => statSync(pagesPath(audioId)).ino;
  const before = written();
  expect(await add('second.wav')).toMatchObject({ audioId, lengthFrames, channels: 1, name: 'second' });
  expect(written()).toBe(before);
  const whole = readFileSync(pagesPath(audioId));
  writeFileSync(pagesPath(audioId), Buffer.from(whole).fill(1, 4000, 5000));
  await add('third.wav');
  expect(readFileSync(pagesPath(audioId)).equals(whole)).toBe(true);
  rmSync(pagesPath(audioId));
  await add('fourth.wav');
  expect(readFileSync(pagesPath(audioId)).equals(whole)).toBe(true);
});

test('a recording of another rate is brought to the song’s', async () => {
  const { id } = await createEmptySong('Rate', 96000);
  await ended(await startImport(id, await receiveUpload(body(wav(0.5)), 'tone.wav'), 'tone.wav'));
  expect((await loadSong(id)).song.tracks[0].lengthFrames).toBe(48000);
});

test('what cannot be read fails by itself and leaves nothing', async () => {
  const { id } = await createEmptySong('Bad', 48000);
  const bad = await startImport(
    id,
    await receiveUpload(body(Buffer.from('no sound at all')), 'notes.txt'),
    'notes.txt',
  );
  const good = await startImport(id, await receiveUpload(body(wav(0.2)), 'good.wav'), 'good.wav');
  expect(await ended(bad)).toMatchObject({
    state: 'failed',
    error: { code: 'unreadable-audio', message: expect.stringContaining('“notes.txt”') },
  });
  expect(await ended(good)).toMatchObject({ state: 'done' });
  expect((await loadSong(id)).song.tracks.map((track) => track.name)).toEqual(['good']);
  expect(incoming()).toEqual([]);
});

test('an upload that is too large is refused and leaves nothing', async () => {
  await expect(receiveUpload(body(new Uint8Array(3 << 20)), 'huge.wav')).rejects.toMatchObject({
    code: 'too-large',
    message: expect.stringContaining('“huge.wav” is larger than 2 MiB'),
  });
  expect(incoming()).toEqual([]);
});

test('an upload that breaks off leaves nothing', async () => {
  const broken = new ReadableStream<Uint8Array>({
    start(controller) {
      controller.enqueue(new Uint8Array(1000));
      setTimeout(() => controller.error(new Error('gone')), 20);
    },
  });
  await expect(receiveUpload(broken, 'half.wav')).rejects.toMatchObject({ code: 'cancelled' });
  expect(incoming()).toEqual([]);
});

test('an import that is cancelled ends as cancelled and leaves nothing', async () => {
  const { id } = await createEmptySong('Cancel', 44100);
  const upload = await receiveUpload(body(wav(13)), 'long.wav');
  const job = await startImport(id, upload, 'long.wav');
  await cancelJob(job.id);
  expect(await ended(job)).toMatchObject({ state: 'cancelled', error: { kept: 'Nothing of it was kept.' } });
  expect((await loadSong(id)).song.tracks).toEqual([]);
  expect(incoming()).toEqual([]);
});

test('names of recordings never lead out of the store', () => {
  writeFileSync(path.join(folder, 'secret'), 'x');
  for (const name of ['../../secret', '', 'AB'.repeat(32), `${'a'.repeat(63)}/`])
    expect(() => pagesPath(name)).toThrow('not the name of a recording');
});

test('the tracks of one drop stand in the order of their files, whichever is read first', async () => {
  const { id } = await createEmptySong('Drop', 48000);
  const bring = async (name: string, seconds: number, place: number) =>
    ended(
      await startImport(id, await receiveUpload(body(wav(seconds)), name), name, { drop: { id: 'drop-1', place } }),
    );
  await ended(await startImport(id, await receiveUpload(body(wav(0.3)), 'Before.wav'), 'Before.wav'));
  await bring('C.wav', 0.4, 2);
  await bring('A.wav', 0.5, 0);
  await bring('B.wav', 0.6, 1);
  await ended(await startImport(id, await receiveUpload(body(wav(0.7)), 'After.wav'), 'After.wav'));
  const { song } = await loadSong(id);
  expect(song.tracks.map(({ name }) => name)).toEqual(['Before', 'A', 'B', 'C', 'After']);
});

test('a recording that a track of the song plays already is asked about, and added where it is wanted all the same', async () => {
  const { id } = await createEmptySong('Twice', 48000);
  const bring = async (isAgain: boolean) =>
    ended(await startImport(id, await receiveUpload(body(wav(0.8)), 'Viola.wav'), 'Viola.wav', { isAgain }));
  await bring(false);
  const asked = await bring(false);
  expect(asked).toMatchObject({
    state: 'failed',
    error: { code: 'conflict', message: '“Viola.wav” is in the song already, as “Viola”.' },
  });
  expect((await loadSong(id)).song.tracks).toHaveLength(1);
  expect(await bring(true)).toMatchObject({ state: 'done' });
  expect((await loadSong(id)).song.tracks).toHaveLength(2);
  expect(incoming()).toEqual([]);
});
