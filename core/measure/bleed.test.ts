import { spawnSync } from 'node:child_process';
import { findBleed } from './bleed';

const RATE = 48000;
const SECONDS = 12;

/** A real recording, again and again, as loud as the others: CC0, from Debian's package sonic-pi-samples. */
function recording(name: string): Float64Array {
  const file = `/usr/share/sonic-pi/samples/${name}.flac`;
  const options = ['-v', 'error', '-stream_loop', '8', '-i', file, '-t', String(SECONDS), '-ac', '1'];
  const { stdout } = spawnSync('ffmpeg', [...options, '-ar', String(RATE), '-f', 'f32le', '-'], { maxBuffer: 1e8 });
  const bytes = stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length);
  const samples = Float64Array.from(new Float32Array(bytes));
  const rms = Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / samples.length);
  return samples.map((value) => (0.1 / rms) * value);
}

/** Two one-pole low-passes, one after the other. */
function darkened(samples: Float64Array, hz: number): Float64Array {
  const step = 1 - Math.exp((-2 * Math.PI * hz) / RATE);
  let [first, second] = [0, 0];
  return samples.map((value) => {
    first += step * (value - first);
    second += step * (first - second);
    return second;
  });
}
const withBleed = (own: Float64Array, source: Float64Array, gain: number, late: number) =>
  own.map((value, n) => value + gain * (source[n - late] ?? 0));

const [drums, guitar, choir] = ['loop_amen', 'guit_harmonics', 'ambi_choir'].map(recording);

test('drums that bleed into a guitar: where, how much, how much later; and not the other way', () => {
  const heard = withBleed(guitar, darkened(drums, 900), 0.5, 200);
  const bleed = findBleed(heard, drums, RATE)!;
  expect(bleed.delaySeconds).toBeGreaterThan(190 / RATE);
  expect(bleed.delaySeconds).toBeLessThan(240 / RATE);
  expect(bleed.share).toBeGreaterThan(0.6);
  // The guitar has nothing down there; from half a kilohertz on it is louder.
  expect(bleed.lowHz).toBeLessThan(90);
  expect(bleed.highHz).toBeGreaterThan(150);
  expect(bleed.highHz).toBeLessThan(700);
  const { frequenciesHz, wholeDb, othersDb } = bleed.picture;
  expect(othersDb.every((db, i) => db <= wholeDb[i] + 0.11)).toBe(true);
  const at = frequenciesHz.findIndex((hz) => hz > 4000);
  expect(wholeDb[at] - othersDb[at]).toBeGreaterThan(10);
  expect(findBleed(drums, heard, RATE)).toBeNull();
});

test('where hardly anything is shared, both are one source, or one is silent, there is no bleed', () => {
  expect(findBleed(guitar, drums, RATE)).toBeNull();
  expect(findBleed(choir, drums, RATE)).toBeNull();
  expect(findBleed(withBleed(choir, drums, 0.01, 200), drums, RATE)).toBeNull();
  // The same drums in another microphone.
  expect(findBleed(darkened(withBleed(new Float64Array(drums.length), drums, 1, 80), 3000), drums, RATE)).toBeNull();
  expect(findBleed(new Float64Array(drums.length), drums, RATE)).toBeNull();
});

test('at the same time it is the one of which less is shared that hears the other', () => {
  const heard = withBleed(guitar, drums, 0.4, 0);
  expect(findBleed(heard, drums, RATE)?.share).toBeGreaterThan(0.6);
  expect(findBleed(drums, heard, RATE)).toBeNull();
});
