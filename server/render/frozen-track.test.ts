import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { PAGE_FRAMES, unpackSamples } from '@/core/engine';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { emptyEqualizer, newProcessor, songLengthFrames, type Song } from '@/core/song';
import { readPages } from '../audio/mending';
import { frozenPaths } from '../audio/store';
import { receiveUpload, startImport } from '../import/import-track';
import { jobsEnded } from '../jobs/jobs';
import { createEmptySong, loadSong } from '../songs/store';
import { ownDataFolder } from '../testing/data-folder';
import { freeze } from './frozen-track';

ownDataFolder();
const FRAMES = 90_000;
const SAMPLES = Float64Array.from({ length: FRAMES }, (_, n) => 0.3 * Math.sin(n / 9));

/** A song with one track, half as loud behind its chain, and far quieter behind its fader. */
async function quietSong(): Promise<{ song: Song; trackId: string }> {
  const wav = Buffer.concat([
    wavHeader({ channels: 1, rateHz: 48000, format: '32f', frames: FRAMES }),
    new PcmEncoder(1, '32f').encode([SAMPLES], FRAMES),
  ]);
  const { id } = await createEmptySong('Frozen', 48000);
  await startImport(id, await receiveUpload(new Response(wav).body, 'Cello.wav'), 'Cello.wav');
  await jobsEnded();
  const { song } = await loadSong(id);
  const [track] = song.tracks;
  const chain = [{ ...emptyEqualizer('e'), outputGainDb: 20 * Math.log10(0.5) }];
  return { song: { ...song, tracks: [{ ...track, chain, gainDb: -40, pan: 0.7, muted: true }] }, trackId: track.id };
}
const signal = new AbortController().signal;

test('a track is rendered through its chain and no further, once, and read like a recording', async () => {
  const { song, trackId } = await quietSong();
  const question = { song, trackId, lengthFrames: songLengthFrames(song) };
  const { audioId, ...shape } = await freeze(question, signal);
  expect(shape).toEqual({ channels: 1, lengthFrames: FRAMES });
  const { bytes, bits } = await readPages([0, 1].map((page) => ({ audioId, page })));
  expect(bits).toEqual([32, 32]);
  const samples = new Float32Array(FRAMES);
  unpackSamples(Buffer.concat(bytes), 32, samples);
  for (const n of [0, 1000, 70_000, FRAMES - 1]) expect(samples[n]).toBeCloseTo(0.5 * SAMPLES[n], 6);
  await expect(readPages([{ audioId, page: 2 }])).rejects.toMatchObject({ code: 'not-found' });
  // What does not change its sound does not render it again; what does makes another one.
  const made = statSync(frozenPaths(audioId).pages).ino;
  const [track] = song.tracks;
  const louder = { ...song, tracks: [{ ...track, gainDb: 0, muted: false }] };
  expect(await freeze({ ...question, song: louder }, signal)).toEqual({ audioId, ...shape });
  expect(statSync(frozenPaths(audioId).pages).ino).toBe(made);
  const later = { ...song, tracks: [{ ...track, delayMs: 5 }] };
  expect((await freeze({ ...question, song: later }, signal)).audioId).not.toBe(audioId);
});

test('of a mono recording in a room both sides are rendered', async () => {
  const { song, trackId } = await quietSong();
  const [track] = song.tracks;
  const roomy = { ...song, tracks: [{ ...track, chain: [newProcessor('reverb', 'room')] }] };
  const question = { song: roomy, trackId, lengthFrames: songLengthFrames(song) };
  const { audioId, channels } = await freeze(question, signal);
  expect(channels).toBe(2);
  const { bytes } = await readPages([{ audioId, page: 0 }]);
  const samples = new Float32Array(2 * PAGE_FRAMES);
  unpackSamples(Buffer.concat(bytes), 32, samples);
  const [left, right] = [samples.subarray(0, PAGE_FRAMES), samples.subarray(PAGE_FRAMES)];
  expect(left.some((value, n) => Math.abs(value - right[n]) > 0.01)).toBe(true);
});

test('a render that is damaged is never played: it is said, and it is made anew when it is asked for', async () => {
  const { song, trackId } = await quietSong();
  const question = { song, trackId, lengthFrames: songLengthFrames(song) };
  const { audioId } = await freeze(question, signal);
  const { pages } = frozenPaths(audioId);
  const whole = readFileSync(pages);
  writeFileSync(pages, Buffer.from(whole).fill(1, 4000, 4004));
  const refusal = { code: 'damaged', message: expect.stringContaining('frozen track “Cello”') };
  await expect(readPages([{ audioId, page: 0 }])).rejects.toMatchObject(refusal);
  // Asked for by itself it says the same.
  await expect(readPages([{ audioId, page: 0 }])).rejects.toMatchObject(refusal);
  expect(await freeze(question, signal)).toMatchObject({ audioId });
  expect(readFileSync(pages).equals(whole)).toBe(true);
  writeFileSync(pages, whole.subarray(0, 100));
  expect(await freeze(question, signal)).toMatchObject({ audioId });
  expect(readFileSync(pages).equals(whole)).toBe(true);
});

test('what cannot be frozen is refused in words', async () => {
  const { song } = await quietSong();
  const refused = freeze({ song, trackId: 'none', lengthFrames: FRAMES }, signal);
  await expect(refused).rejects.toMatchObject({ code: 'not-found', message: 'The song has no track “none”.' });
  const tooLong = freeze({ song, trackId: song.tracks[0].id, lengthFrames: 1e12 }, signal);
  await expect(tooLong).rejects.toMatchObject({ code: 'invalid-input' });
});
