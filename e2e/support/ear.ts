import { expect, type APIRequestContext, type BrowserContext, type Page } from '@playwright/test';
import { PcmEncoder, seededRandom, wavHeader } from '@/core/formats';
import { kWeightingDb } from '@/core/measure';
import type { Edit, Song } from '@/core/song';
import { emptySong } from './song';

/** What the page's own audio thread plays, overheard on its way to the loudspeakers, and songs of tones that tell what was done to them. */
const RATE = 48000;
/** Samples that are listened to at once: 0.68 s. */
const WINDOW = 32768;
const BIN_HZ = RATE / WINDOW;
const PERIODS = 8;
const AMPLITUDE = 0.01;

/** Tones from 50 Hz to 15 kHz, each a whole number of periods in a window: 30 of them, about a quarter of an octave apart. */
export const TONES_HZ: readonly number[] = Array.from(
  { length: 30 },
  (_, i) => Math.round((50 * 300 ** (i / 29)) / BIN_HZ) * BIN_HZ,
);

/** The tone nearest to a frequency. */
export const toneNear = (hz: number) =>
  TONES_HZ.reduce((best, tone) => (Math.abs(Math.log(tone / hz)) < Math.abs(Math.log(best / hz)) ? tone : best));

/** A mono recording, 32-bit float. @param sampleAt value of a frame, −1 to 1 */
export function monoWav(frames: number, rateHz: number, sampleAt: (n: number) => number): Buffer {
  const shape = { channels: 1, rateHz, format: '32f' } as const;
  const samples = Float64Array.from({ length: frames }, (_, n) => sampleAt(n));
  return Buffer.concat([wavHeader({ ...shape, frames }), new PcmEncoder(1, shape.format).encode([samples], frames)]);
}

/** A recording of tones; any two stretches of it that lie whole windows apart are alike. Phases that are spread keep the crest low. */
const combWav = (tonesHz: readonly number[]): Buffer =>
  monoWav(PERIODS * WINDOW, RATE, (n) =>
    tonesHz.reduce((sum, hz, i) => sum + AMPLITUDE * Math.sin((2 * Math.PI * hz * n) / RATE + i * i), 0),
  );

/** A recording of noise, the same for each seed. */
export function noiseWav(seed: number, seconds: number, rateHz: number): Buffer {
  const random = seededRandom(seed);
  return monoWav(Math.round(seconds * rateHz), rateHz, () => 0.2 * random() - 0.1);
}

export async function edit(request: APIRequestContext, songId: string, edits: Edit[]): Promise<void> {
  const answer = await request.post(`/api/songs/${songId}/edits`, {
    data: { clientId: 'test', edits: edits.map((edit, i) => ({ id: `${Date.now()}-${i}`, edit })) },
  });
  expect(answer.ok()).toBe(true);
}

/** Songs of tones that this worker has made: the next test that wants one has a copy. */
const made = new Map<string, Promise<{ songId: string; trackIds: string[] }>>();

/** A song of tracks of tones, looped. @returns its id and the ids of its tracks */
export async function toneSong(
  request: APIRequestContext,
  tracks: Record<string, readonly number[]> = { Tones: TONES_HZ },
): Promise<{ songId: string; trackIds: string[] }> {
  const key = JSON.stringify(tracks);
  if (!made.has(key)) made.set(key, makeToneSong(request, tracks));
  const { songId, trackIds } = await made.get(key)!;
  const copy = (await (await request.post(`/api/songs/${songId}/duplicate`)).json()) as { id: string };
  return { songId: copy.id, trackIds };
}

const readSong = async (request: APIRequestContext, songId: string): Promise<Song> =>
  ((await (await request.get(`/api/songs/${songId}`)).json()) as { song: Song }).song;

/** Brings a recording in, and waits until its track is there. @returns the track's id */
export async function addRecording(
  request: APIRequestContext,
  songId: string,
  name: string,
  wav: Buffer,
): Promise<string> {
  const before = (await readSong(request, songId)).tracks.length;
  await request.post(`/api/songs/${songId}/imports?name=${encodeURIComponent(name)}.wav`, {
    headers: { 'content-type': 'application/octet-stream' },
    data: wav,
  });
  await expect.poll(async () => (await readSong(request, songId)).tracks.length).toBe(before + 1);
  return (await readSong(request, songId)).tracks[before].id;
}

async function makeToneSong(
  request: APIRequestContext,
  tracks: Record<string, readonly number[]>,
): Promise<{ songId: string; trackIds: string[] }> {
  const songId = await emptySong(request, 'Tones');
  for (const [name, tones] of Object.entries(tracks)) await addRecording(request, songId, name, combWav(tones));
  const song = await readSong(request, songId);
  // What lies before the start of the loop is what comes at its end, so the seam is not heard.
  const [startSeconds, endSeconds] = [1, PERIODS - 1].map((periods) => (periods * WINDOW) / RATE);
  await edit(request, songId, [{ kind: 'song.set', changes: { loop: { startSeconds, endSeconds, enabled: true } } }]);
  return { songId, trackIds: song.tracks.map(({ id }) => id) };
}

/** Puts an ear between the audio thread and the loudspeakers of every page that is opened. */
export async function putEar(context: BrowserContext): Promise<void> {
  await context.addInitScript((size) => {
    const connect = AudioNode.prototype.connect as (this: AudioNode, to: AudioNode) => AudioNode;
    AudioNode.prototype.connect = function (this: AudioNode, to: AudioNode) {
      if (to instanceof AudioDestinationNode) {
        const ear = new AnalyserNode(this.context, { fftSize: size, channelCount: 1 });
        connect.call(this, ear);
        Object.assign(window, { orvidEar: ear });
      }
      return connect.call(this, to);
    } as typeof AudioNode.prototype.connect;
  }, WINDOW);
}

/** Time of the audio clock for what was changed to ease in, and for the ear to hear nothing else. */
const SETTLE_SECONDS = 0.2 + WINDOW / RATE;

/** Waits by the clock of the sound: however busy the machine is, no longer and no shorter than it must be. */
async function settle(page: Page): Promise<void> {
  await page.evaluate(async (seconds) => {
    const { context } = (window as unknown as { orvidEar: AnalyserNode }).orvidEar;
    const until = context.currentTime + seconds;
    while (context.currentTime < until) await new Promise((done) => setTimeout(done, 20));
  }, SETTLE_SECONDS);
}

/** Levels of the tones as they are heard now, dB relative to a tone of the recording in the middle: of the mean of both sides, over the last 0.68 s. */
export async function heardTones(page: Page): Promise<Map<number, number>> {
  await settle(page);
  const levels = await page.evaluate(
    ({ tonesHz, rate, amplitude }) => {
      const { orvidEar } = window as unknown as { orvidEar: AnalyserNode };
      const samples = new Float32Array(orvidEar.fftSize);
      orvidEar.getFloatTimeDomainData(samples);
      return tonesHz.map((hz) => {
        let [re, im] = [0, 0];
        const w = (2 * Math.PI * hz) / rate;
        for (let n = 0; n < samples.length; n++) {
          re += samples[n] * Math.cos(w * n);
          im += samples[n] * Math.sin(w * n);
        }
        const level = (2 * Math.hypot(re, im)) / samples.length;
        return 20 * Math.log10(level / amplitude + 1e-9);
      });
    },
    { tonesHz: TONES_HZ, rate: RATE, amplitude: AMPLITUDE * Math.SQRT1_2 },
  );
  return new Map(TONES_HZ.map((hz, i) => [hz, levels[i]]));
}

/** The last samples that went to the loudspeakers, both sides added up: 32768 of them. */
export const heardSamples = (page: Page): Promise<number[]> =>
  page.evaluate(() => {
    const { orvidEar } = window as unknown as { orvidEar: AnalyserNode };
    const samples = new Float32Array(orvidEar.fftSize);
    orvidEar.getFloatTimeDomainData(samples);
    return Array.from(samples);
  });

/** How two hearings differ, dB by tone. */
export const change = (before: Map<number, number>, after: Map<number, number>) =>
  new Map(TONES_HZ.map((hz) => [hz, after.get(hz)! - before.get(hz)!]));

/** The greatest difference of two hearings, dB. */
export const greatestChange = (before: Map<number, number>, after: Map<number, number>) =>
  Math.max(...[...change(before, after).values()].map(Math.abs));

/** K-weighted loudness of what is heard, against any other. Source: ITU-R BS.1770-4. */
export const loudnessOf = (levels: Map<number, number>) =>
  10 * Math.log10([...levels].reduce((sum, [hz, db]) => sum + 10 ** ((db + kWeightingDb(hz)) / 10), 0));

/** Plays and waits until everything is there. */
export async function play(page: Page): Promise<void> {
  await expect(page.getByText(/loading sound/)).toHaveCount(0);
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
}

/** Where a frequency lies on the bench, in the window. */
export async function onBench(page: Page, hz: number): Promise<{ x: number; y: number }> {
  const box = (await page.getByTestId('bench-field').boundingBox())!;
  return { x: box.x + (box.width * Math.log(hz / 20)) / Math.log(1000), y: box.y + box.height * 0.2 };
}

/** Mean powers of what is heard in some ranges of frequency while so many seconds are played, dB against any other. */
export async function heardRanges(
  page: Page,
  ranges: readonly (readonly [lowHz: number, highHz: number])[],
  seconds: number,
): Promise<number[]> {
  await settle(page);
  return page.evaluate(
    async ({ ranges, seconds, binHz, pause }) => {
      const { orvidEar } = window as unknown as { orvidEar: AnalyserNode };
      orvidEar.smoothingTimeConstant = 0;
      const powers = ranges.map(() => 0);
      const levels = new Float32Array(orvidEar.frequencyBinCount);
      const { context } = orvidEar;
      const until = context.currentTime + seconds;
      while (context.currentTime < until) {
        orvidEar.getFloatFrequencyData(levels);
        ranges.forEach(([low, high], i) => {
          for (let bin = Math.ceil(low / binHz); bin <= high / binHz; bin++) powers[i] += 10 ** (levels[bin] / 10);
        });
        await new Promise((done) => setTimeout(done, pause));
      }
      return powers.map((power) => 10 * Math.log10(power + 1e-20));
    },
    { ranges, seconds, binHz: BIN_HZ, pause: 300 },
  );
}
