import { compileSong, renderMix } from '../engine';
import { emptyEqualizer, emptySong, newTrack, type BandSettings, type Song } from '../song';
import { bandsForSuspect, type Suspect } from '.';
import { BurstFinder } from './bursts';
import type { FoundSuspect } from './suspect';

const RATE = 48000;
const SECONDS = 14;
const EVERY = 0.5;

const found = (samples: Float64Array): FoundSuspect[] => {
  const finder = new BurstFinder(RATE);
  for (let at = 0; at < samples.length; at += 9001) finder.push([samples.subarray(at, at + 9001)]);
  return finder.finish();
};

/** Notes of a few partials that die away, two in a second. */
const voice = Float64Array.from({ length: SECONDS * RATE }, (_, n) => {
  const t = (n / RATE) % EVERY;
  const level = 0.1 * Math.min(1, t / 0.006) * Math.exp(-t / 0.09);
  return [1, 2, 3, 4, 5].reduce((sum, k) => sum + (level / k) * Math.sin((2 * Math.PI * 220 * k * n) / RATE), 0);
});

/** An S at the end of each note, 90 ms of noise between 5 and 8 kHz. @param level 1 for one whose power is about a note's at its beginning */
function withSibilants(level: number): Float64Array {
  let state = 7;
  const out = voice.slice();
  const partials = Array.from({ length: 120 }, () => {
    const next = () => (state = (Math.imul(1664525, state) + 1013904223) >>> 0) / 2 ** 32;
    return { hz: 5000 + 3000 * next(), phase: 2 * Math.PI * next() };
  });
  for (let n = 0; n < out.length; n++) {
    const t = ((n / RATE) % EVERY) - 0.38;
    if (t < 0 || t > 0.09) continue;
    const shape = Math.min(1, t / 0.01, (0.09 - t) / 0.01);
    const sum = partials.reduce((all, { hz, phase }) => all + Math.sin((2 * Math.PI * hz * n) / RATE + phase), 0);
    out[n] += ((0.085 * level) / Math.sqrt(60)) * shape * sum;
  }
  return out;
}

const db = (ratio: number) => 20 * Math.log10(ratio);

/** The level of some part of all notes but the first, dB. */
function levelDb(samples: Float64Array, fromSeconds: number, toSeconds: number): number {
  let [sum, count] = [0, 0];
  for (let n = EVERY * RATE; n < samples.length; n++) {
    const t = (n / RATE) % EVERY;
    if (t < fromSeconds || t >= toSeconds) continue;
    sum += samples[n] ** 2;
    count++;
  }
  return db(Math.sqrt(sum / count));
}

/** What is heard of a sound through some bands. */
function through(samples: Float64Array, bands: readonly BandSettings[]): Float64Array {
  const audio = { audioId: 'ab'.repeat(32), channels: 1 as const, lengthFrames: samples.length };
  const equalizer = { ...emptyEqualizer('e'), bands: bands.map((band, i) => ({ ...band, id: `b${i}`, letter: 'A' })) };
  const song: Song = {
    ...emptySong('Sibilants'),
    tracks: [{ ...newTrack(audio, { id: 'voice', name: 'Voice', ink: 0 }), chain: [equalizer] }],
  };
  const out = new Float64Array(samples.length);
  const source = {
    channels: 1 as const,
    read: (frame: number, count: number, left: Float64Array) => left.set(samples.subarray(frame, frame + count)),
  };
  for (const { left, frames, frame } of renderMix(compileSong(song), () => source))
    out.set(left.subarray(0, frames), frame);
  return out;
}

test('sibilants are named where they are louder than a voice has them anyway', () => {
  expect(found(withSibilants(0.2))).toEqual([]);
  const [sharp, ...others] = found(withSibilants(0.4));
  expect(others).toEqual([]);
  expect(sharp).toMatchObject({ kind: 'sibilance', count: SECONDS / EVERY });
  expect(sharp.frequencyHz).toBeGreaterThan(5500);
  expect(sharp.frequencyHz).toBeLessThan(7500);
  const [sharper] = found(withSibilants(0.5));
  expect(sharper.prominenceDb - sharp.prominenceDb).toBeCloseTo(db(0.5 / 0.4), 0);
  expect(sharper.sureness).toBeGreaterThan(sharp.sureness);
});

test.each([0.5, 1])('the band against them brings them to what is usual, and leaves the notes alone (%d)', (level) => {
  const sharp = withSibilants(level);
  const [suspect] = found(sharp);
  const heard = through(sharp, bandsForSuspect(suspect as Suspect));
  const given = levelDb(through(sharp, []), 0.4, 0.46) - levelDb(heard, 0.4, 0.46);
  expect(Math.abs(given - suspect.prominenceDb)).toBeLessThan(2);
  expect(Math.abs(levelDb(heard, 0, 0.2) - levelDb(through(voice, []), 0, 0.2))).toBeLessThan(0.2);
});

/** The voice with thumps of 55 Hz. */
const withThumps = (everySeconds: number) =>
  voice.map((value, n) => {
    const t = (n / RATE + 0.3) % everySeconds;
    return value + (t < 0.6 ? 0.05 * Math.exp(-t / 0.05) * Math.sin(2 * Math.PI * 55 * t) : 0);
  });

test('the more often something thumps, the likelier it is played', () => {
  const surenessOf = (everySeconds: number) => found(withThumps(everySeconds)).map(({ sureness }) => sureness);
  const [[rare], [frequent]] = [surenessOf(3.1), surenessOf(1.3)];
  expect(rare).toBeGreaterThan(0.7);
  expect(frequent).toBeLessThan(0.5);
  expect(surenessOf(0.8)).toEqual([]);
});
