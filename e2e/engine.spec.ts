import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { temporaryFolder } from './support/folder';
import { expect, test } from './support/test';
import { designBand, magnitudeDb, phaseDegrees } from '@/core/filters';
import { newBandSettings, type BandSettings } from '@/core/song';
import { DATA_DIR } from './support/environment';
import { addRecording, edit, heardSamples, noiseWav, play } from './support/ear';
import { copyOfDemo, emptySong, openSong, savedSong } from './support/song';
import { playedByWorklet } from './support/worklet';
import { openList } from './support/within';

/**
 * Our filters against the browser's own, where both must agree: far below half the sample rate. Source: Web Audio API 1.0,
 * BiquadFilterNode, after the Audio EQ Cookbook. The browser's shelves have a fixed slope, S = 1, and its pass filters of
 * order 2 take their Q in dB.
 */
const BUTTERWORTH_Q_DB = 20 * Math.log10(Math.SQRT1_2);
const pairs: { name: string; ours: BandSettings; type: BiquadFilterType; q?: number; gain?: number }[] = [
  { name: 'bell', ours: { ...newBandSettings('bell', 200), gainDb: 9, q: 2 }, type: 'peaking', q: 2, gain: 9 },
  {
    name: 'bell, cut',
    ours: { ...newBandSettings('bell', 300), gainDb: -12, q: 0.7 },
    type: 'peaking',
    q: 0.7,
    gain: -12,
  },
  {
    name: 'low shelf',
    ours: { ...newBandSettings('low-shelf', 150), gainDb: 6, q: Math.SQRT1_2 },
    type: 'lowshelf',
    gain: 6,
  },
  {
    name: 'high shelf',
    ours: { ...newBandSettings('high-shelf', 150), gainDb: -6, q: Math.SQRT1_2 },
    type: 'highshelf',
    gain: -6,
  },
  { name: 'notch', ours: { ...newBandSettings('notch', 250), q: 3 }, type: 'notch', q: 3 },
  { name: 'high-pass of order 2', ours: newBandSettings('high-pass', 120), type: 'highpass', q: BUTTERWORTH_Q_DB },
  { name: 'low-pass of order 2', ours: newBandSettings('low-pass', 400), type: 'lowpass', q: BUTTERWORTH_Q_DB },
];

test('far below half the rate the responses are the browser’s own', async ({ page }) => {
  await openList(page);
  const frequencies = [20, 50, 100, 150, 200, 250, 300, 400, 600, 1000];
  for (const { name, ours, type, q, gain } of pairs) {
    const theirs = await page.evaluate(
      ({ type, q, gain, hz, frequencies }) => {
        const filter = new BiquadFilterNode(new OfflineAudioContext(1, 1, 48000), { type, frequency: hz, Q: q, gain });
        const magnitude = new Float32Array(frequencies.length);
        const phase = new Float32Array(frequencies.length);
        filter.getFrequencyResponse(Float32Array.from(frequencies), magnitude, phase);
        return { magnitude: Array.from(magnitude), phase: Array.from(phase) };
      },
      { type, q, gain, hz: ours.frequencyHz, frequencies },
    );
    const sections = designBand(ours, 48000);
    frequencies.forEach((hz, i) => {
      if (theirs.magnitude[i] < 1e-3) return;
      const db = 20 * Math.log10(theirs.magnitude[i]);
      expect(Math.abs(magnitudeDb(sections, hz, 48000) - db), `${name} at ${hz} Hz`).toBeLessThan(0.03);
      // The matched design keeps the magnitude up to half the rate; its phase departs earlier, by less than a sample.
      if (hz > 300) return;
      const turn = (phaseDegrees(sections, hz, 48000) * Math.PI) / 180 - theirs.phase[i];
      expect(Math.cos(turn), `${name}, phase at ${hz} Hz`).toBeGreaterThan(Math.cos(0.05));
    });
  }
});

test('what the audio thread plays is what the command line renders', async ({ page, request }) => {
  const songId = await copyOfDemo(request);
  await openSong(page, songId);
  const song = await savedSong(page, songId);
  const SECONDS = 4;
  const heard = await playedByWorklet(page, song, SECONDS * 48000);
  const file = path.join(temporaryFolder('orvid-engine'), 'mix.wav');
  execFileSync(process.execPath, ['scripts/orvid.mjs', 'render', songId, file, '--to', String(SECONDS)], {
    env: { ...process.env, ORVID_DATA_DIR: DATA_DIR },
  });
  const bytes = readFileSync(file);
  const start = bytes.indexOf('data') + 8;
  const rendered = new Float32Array(bytes.buffer.slice(bytes.byteOffset + start, bytes.byteOffset + bytes.length));
  // The transport fades in over 6 ms, and what the filters then still remember of it dies away.
  let [worst, loudest] = [0, 0];
  for (let n = 24000; n < heard.length; n++) {
    worst = Math.max(worst, Math.abs(heard[n] - rendered[2 * n]));
    loudest = Math.max(loudest, Math.abs(heard[n]));
  }
  expect(loudest).toBeGreaterThan(0.1);
  expect(20 * Math.log10(worst)).toBeLessThan(-100);
});

test('where sound takes long to the ear, the playhead stands where it is heard', async ({ context, request }) => {
  const page = await context.newPage();
  await page.addInitScript(() =>
    Object.defineProperty(AudioContext.prototype, 'outputLatency', {
      get: () => (window as { lateSeconds?: number }).lateSeconds ?? 0,
    }),
  );
  await openSong(page, await copyOfDemo(request));
  await page.keyboard.press(' ');
  await expect(page.getByTestId('position')).toHaveText(/^0:0[2-9]/);
  const [before, after] = await page.evaluate(async () => {
    const seconds = () => Number(document.querySelector('[data-testid="position"]')!.textContent!.replace(/^0:/, ''));
    const shown = seconds();
    const start = performance.now();
    Object.assign(window, { lateSeconds: 1.5 });
    await new Promise((done) => setTimeout(done, 400));
    return [shown, seconds() - (performance.now() - start) / 1000];
  });
  expect(after).toBeLessThan(before - 1);
  // What has come out is heard to its end: it stops, and begins again, where that was.
  await page.keyboard.press(' ');
  await expect
    .poll(async () => Number((await page.getByTestId('position').textContent())!.replace(/^0:/, '')))
    .toBeGreaterThan(after + 1);
});

test('a short loop at 96 kHz, of delayed tracks and across the pieces that sound comes in, is the same turn for turn', async ({
  page,
  request,
}) => {
  const RATE = 96000;
  const songId = await emptySong(request, 'Loops', RATE);
  for (const [i, delayMs] of [0, 3.7, 100].entries()) {
    const stripId = await addRecording(request, songId, `Noise ${i}`, noiseWav(i + 1, 3, RATE));
    await edit(request, songId, [{ kind: 'strip.set', stripId, changes: { delayMs } }]);
  }
  for (const [startSeconds, seconds] of [
    [1.2345, 0.05],
    [0.61, 0.3],
  ]) {
    const loop = { startSeconds, endSeconds: startSeconds + seconds, enabled: true };
    await edit(request, songId, [{ kind: 'song.set', changes: { loop } }]);
    await openSong(page, songId);
    await page.keyboard.press('Home');
    await play(page);
    const turn = Math.round(seconds * RATE);
    // From the third turn on nothing is left of how it began.
    const apart = async () => {
      const samples = await heardSamples(page);
      expect(samples.filter((value) => value === 0).length).toBeLessThan(samples.length / 2);
      return samples.slice(turn).reduce((most, value, n) => Math.max(most, Math.abs(value - samples[n])), 0);
    };
    await expect(async () => expect(await apart()).toBe(0)).toPass();
    for (let look = 0; look < 3; look++) expect(await apart()).toBe(0);
    await page.keyboard.press(' ');
    await openList(page);
  }
});
