import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { seededRandom } from '../formats';
import { Resampler } from './resampler';

/** All of it, pushed in blocks of some lengths in turn. */
function converted(
  sides: readonly ArrayLike<number>[],
  fromHz: number,
  toHz: number,
  blocks = [7001],
  isPlain = false,
): Float32Array[] {
  const resampler = new Resampler(fromHz, toHz, sides.length as 1 | 2, isPlain);
  const out: number[][] = sides.map(() => []);
  const keep = (made: Float32Array[]) => made.forEach((side, c) => side.forEach((sample) => out[c].push(sample)));
  for (let at = 0, turn = 0; at < sides[0].length; turn++) {
    const count = blocks[turn % blocks.length];
    keep(resampler.push(sides.map((side) => Array.prototype.slice.call(side, at, at + count) as number[])));
    at += count;
  }
  keep(resampler.finish());
  return out.map((side) => Float32Array.from(side));
}

const PITCHES = [31, 440, 997, 3001, 7919];
/** A chord that both rates can hold, at any moment. */
const chord = (hz: readonly number[], rateHz: number, frames: number) =>
  Float64Array.from({ length: frames }, (_, n) =>
    hz.reduce((sum, pitch, i) => sum + 0.15 * Math.sin((2 * Math.PI * pitch * n) / rateHz + i), 0),
  );
const sine = (hz: number, rateHz: number, frames: number) => chord([hz], rateHz, frames);

/** The root of the mean square away from the ends, dB. */
const levelDb = (samples: ArrayLike<number>, from = 4800, to = samples.length - 4800) => {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n] ** 2;
  return 10 * Math.log10(sum / (to - from) + 1e-30);
};
const difference = (first: ArrayLike<number>, second: ArrayLike<number>) =>
  Float64Array.from({ length: first.length }, (_, n) => first[n] - second[n]);

const RATES = [
  [44100, 48000],
  [48000, 44100],
  [96000, 48000],
  [88200, 48000],
  [192000, 44100],
  [48000, 96000],
  [22050, 48000],
  [44099, 48000],
  [384000, 44100],
] as const;

test.each(RATES)(
  'from %i to %i Hz: what both hold is the same wave at the same time, to 130 dB below it (worked out from the sines)',
  (from, to) => {
    const sides = [chord(PITCHES, from, from), chord(PITCHES.slice(1, 3), from, from)];
    const out = converted(sides, from, to);
    const wanted = [chord(PITCHES, to, to), chord(PITCHES.slice(1, 3), to, to)];
    out.forEach((side, c) => {
      expect(side).toHaveLength(to);
      expect(levelDb(difference(side, wanted[c])) - levelDb(wanted[c])).toBeLessThan(-130);
    });
    const [mono] = converted([sides[0]], from, to);
    expect(levelDb(difference(mono, wanted[0])) - levelDb(wanted[0])).toBeLessThan(-130);
  },
);

test.each(RATES)(
  'from %i to %i Hz: flat to 96 %% of half the lower rate; what cannot be held is gone, and none of it is folded',
  (from, to) => {
    const half = Math.min(from, to) / 2;
    const through = (hz: number) =>
      levelDb(converted([sine(hz, from, from)], from, to)[0]) - levelDb([0.15 / Math.SQRT2], 0, 1);
    for (const share of [0.5, 0.9, 0.96]) expect(Math.abs(through(share * half))).toBeLessThan(1e-3);
    for (const hz of [half, 1.02 * half, 1.3 * half]) if (hz < from / 2) expect(through(hz)).toBeLessThan(-140);
  },
);

test('no image of what comes in is left above it (22.05 to 24 kHz)', () => {
  const hz = 20000;
  const [out] = converted([sine(hz, 44100, 44100)], 44100, 48000);
  const wanted = sine(hz, 48000, 48000);
  expect(levelDb(difference(out, wanted)) - levelDb(wanted)).toBeLessThan(-130);
});

test('whatever pieces it comes in, the samples are the same, and as many as the ratio gives', () => {
  const random = seededRandom(5);
  for (let round = 0; round < 20; round++) {
    const [from, to] = RATES[Math.floor(random() * 7)];
    const frames = Math.floor(random() * 30000);
    const sides = Array.from({ length: 1 + (round % 2) }, () =>
      Float32Array.from({ length: frames }, () => random() - 0.5),
    );
    const whole = converted(sides, from, to, [Math.max(1, frames)]);
    const pieces = converted(
      sides,
      from,
      to,
      [1, 128, 4097, 20000].map((count) => Math.ceil(count * random()) + 1),
    );
    expect(whole[0]).toHaveLength(Math.round((frames * to) / from));
    expect(pieces).toEqual(whole);
  }
});

test.each([
  [44100, 48000],
  [96000, 44100],
])('the compiled loops do what the plain ones do (%i to %i Hz)', (from, to) => {
  const random = seededRandom(9);
  const sides = [0, 1].map(() => Float32Array.from({ length: 40000 }, () => random() - 0.5));
  const [own, plain] = [false, true].map((isPlain) => converted(sides, from, to, [7001], isPlain));
  own.forEach((side, c) => expect(levelDb(difference(side, plain[c]), 0, side.length)).toBeLessThan(-150));
});

test('it gives what sox gives with its very high quality (rate -v), for noise up to 18 kHz', () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-resample-'));
  const at = (name: string) => path.join(folder, name);
  const raw = (rate: number) => ['-t', 'raw', '-e', 'floating-point', '-b', '32', '-c', '1', '-r', String(rate)];
  const floats = (file: string) => {
    const bytes = readFileSync(file);
    return new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length / 4);
  };
  const noise = ['synth', '3', 'whitenoise', 'vol', '0.3', 'sinc', '-a', '120', '-n', '4095', '-18000'];
  execFileSync('sox', ['-R', '-n', ...raw(44100), at('noise.raw'), ...noise]);
  execFileSync('sox', [...raw(44100), at('noise.raw'), ...raw(48000), at('sox.raw'), 'rate', '-v']);
  const samples = floats(at('noise.raw'));
  const [own] = converted([samples], 44100, 48000);
  const theirs = floats(at('sox.raw'));
  rmSync(folder, { recursive: true });
  expect(Math.abs(theirs.length - own.length)).toBeLessThan(2);
  expect(levelDb(difference(own, theirs)) - levelDb(own)).toBeLessThan(-95);
});
