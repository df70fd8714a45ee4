import { designBand } from '../filters';
import { seededRandom } from '../formats';
import { newBandSettings } from '../song';
import { spawnSync } from 'node:child_process';
import { findAlignment, isOneSource } from './alignment';

const RATE = 48000;
const SECONDS = 6;
const LENGTH = SECONDS * RATE;
/** Room before and behind, so that what is later or earlier is there. */
const MARGIN = 4096;

/** Strokes of a drum: falling sines of a few notes under bursts of noise, at uneven times. */
function strokes(seed: number): Float64Array {
  const random = seededRandom(seed);
  const out = new Float64Array(LENGTH + 2 * MARGIN);
  for (let at = 0; at < out.length; at += Math.round((0.2 + 0.3 * random()) * RATE)) {
    const hz = 90 + 160 * random();
    for (let n = 0; n < 0.25 * RATE && at + n < out.length; n++)
      out[at + n] +=
        0.5 * Math.sin((2 * Math.PI * hz * n) / RATE) * Math.exp(-n / (0.06 * RATE)) +
        0.3 * (random() - 0.5) * Math.exp(-n / (0.02 * RATE));
  }
  return out;
}

/** Later by any number of frames: by a windowed sine cardinal of 96 taps. */
function later(samples: Float64Array, frames: number): Float64Array {
  const whole = Math.floor(frames);
  const part = frames - whole;
  const taps = Array.from({ length: 96 }, (_, i) => {
    const x = i - 48 - part;
    const window = 0.5 + 0.5 * Math.cos((Math.PI * x) / 49);
    return (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * window;
  });
  return Float64Array.from(samples, (_, n) =>
    taps.reduce((sum, tap, i) => sum + tap * (samples[n - whole - (i - 48)] ?? 0), 0),
  );
}

const cut = (samples: Float64Array) => samples.subarray(MARGIN, MARGIN + LENGTH);
function withNoise(samples: Float64Array, db: number, seed: number): Float64Array {
  const random = seededRandom(seed);
  const rms = Math.sqrt(samples.reduce((sum, value) => sum + value * value, 0) / samples.length);
  const level = rms * 10 ** (db / 20) * Math.sqrt(12);
  return samples.map((value) => value + level * (random() - 0.5));
}

const source = strokes(3);

test.each([
  [0.1, false],
  [-0.35, true],
  [1.2345, false],
  [-4.777, true],
  [9.1, true],
  [20, false],
  [-20, true],
])('a delay of %d ms under noise at −12 dB is found to a quarter sample, turned: %s', (ms, turned) => {
  const other = later(source, (ms / 1000) * RATE).map((value) => (turned ? -value : value));
  const found = findAlignment(withNoise(cut(source), -12, 5), withNoise(cut(other), -12, 6), RATE);
  expect(found.best?.inverted).toBe(turned);
  expect(Math.abs(found.best!.delaySeconds * RATE + (ms / 1000) * RATE)).toBeLessThan(0.25);
  expect(found.likeness).toBeGreaterThan(0.5);
  expect(found.best!.wonDb).toBeGreaterThan(Math.abs(ms) > 0.3 ? 0.3 : 0.03);
});

test('what is won is what the sum becomes louder, in each range', () => {
  const other = later(source, 48).map((value) => -0.7 * value);
  const [a, b] = [cut(source), cut(other)];
  const { best } = findAlignment(a, b, RATE);
  const moved = cut(
    later(
      Float64Array.from(other, (value) => -value),
      best!.delaySeconds * RATE,
    ),
  );
  const power = (samples: Float64Array) => samples.reduce((sum, value) => sum + value * value, 0);
  const sum = (with_: Float64Array) => a.map((value, n) => value + with_[n]);
  expect(best!.wonDb).toBeCloseTo(10 * Math.log10(power(sum(moved)) / power(sum(b))), 0);
  // A millisecond apart and turned cancels what is far below 500 Hz.
  const low = best!.byRange.find(({ lowHz }) => lowHz > 80 && lowHz < 100)!;
  expect(low.wonDb).toBeGreaterThan(6);
});

test('two microphones that hear another tone of the same strokes are found too, in a chosen range as well', () => {
  const through = (samples: Float64Array, ...bands: Parameters<typeof designBand>[0][]) =>
    bands
      .flatMap((band) => designBand(band, RATE))
      .reduce((heard, { b0, b1, b2, a1, a2 }) => {
        const out = new Float64Array(heard.length);
        for (let n = 0; n < heard.length; n++)
          out[n] =
            b0 * heard[n] +
            b1 * (heard[n - 1] ?? 0) +
            b2 * (heard[n - 2] ?? 0) -
            a1 * (out[n - 1] ?? 0) -
            a2 * (out[n - 2] ?? 0);
        return out;
      }, samples);
  const top = through(source, { ...newBandSettings('high-shelf', 2000), gainDb: 6 });
  const under = through(
    later(source, 37.4).map((value) => -value),
    { ...newBandSettings('bell', 300), gainDb: 5 },
    { ...newBandSettings('high-shelf', 4000), gainDb: -6 },
  );
  const [a, b] = [withNoise(cut(top), -20, 1), withNoise(cut(under), -20, 2)];
  for (const range of [undefined, { lowHz: 60, highHz: 2000 }]) {
    const found = findAlignment(a, b, RATE, range);
    expect(found.best?.inverted).toBe(true);
    // The filters themselves turn the phase: a few samples.
    expect(Math.abs(found.best!.delaySeconds * RATE + 37.4)).toBeLessThan(4);
    expect(found.best!.wonDb).toBeGreaterThan(3);
  }
});

test('where nothing is to be won it says so: other strokes, noise, silence, a steady tone of another instrument', () => {
  const random = seededRandom(8);
  const noise = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
  const tone = (hz: number) =>
    Float64Array.from({ length: LENGTH }, (_, n) => Math.sin((2 * Math.PI * hz * n) / RATE + Math.sin(n / 40000)));
  for (const [first, second] of [
    [cut(source), cut(strokes(4))],
    [cut(source), cut(strokes(5))],
    [cut(source), noise],
    [cut(source), new Float64Array(LENGTH)],
    [tone(220), tone(331)],
  ])
    expect(findAlignment(first, second, RATE).best).toBeNull();
  expect(findAlignment(cut(source), cut(strokes(4)), RATE).likeness).toBeLessThan(0.3);
});

/** Twelve seconds of a real recording, again and again: CC0, from Debian's package sonic-pi-samples. */
function recording(name: string): Float32Array {
  const file = `/usr/share/sonic-pi/samples/${name}.flac`;
  const options = ['-v', 'error', '-stream_loop', '8', '-i', file, '-t', '12', '-ac', '1', '-ar', String(RATE)];
  const { stdout } = spawnSync('ffmpeg', [...options, '-f', 'f32le', '-'], { maxBuffer: 1e8 });
  return new Float32Array(stdout.buffer.slice(stdout.byteOffset, stdout.byteOffset + stdout.length));
}

test('real recordings: what is unrelated stays so, what bleeds is no second microphone, and a darker, later, turned one is', () => {
  const [drums, tabla, guitar, choir] = ['loop_amen', 'loop_tabla', 'guit_em9', 'ambi_choir'].map(recording);
  for (const [first, second] of [
    [drums, tabla],
    [guitar, choir],
    [tabla, choir],
    [drums, guitar],
  ])
    expect(findAlignment(first, second, RATE).best).toBeNull();
  const bleeding = guitar.map((value, n) => value + 0.1 * (drums[n - 288] ?? 0));
  expect(isOneSource(findAlignment(drums, bleeding, RATE))).toBe(false);
  for (const samples of [drums, tabla, guitar]) {
    let low = 0;
    const dark = samples.map((_, n) => (low += 0.25 * ((samples[n - 82] ?? 0) - low)) * -0.8);
    const found = findAlignment(samples, dark, RATE);
    expect(isOneSource(found)).toBe(true);
    expect(found.best?.inverted).toBe(true);
    expect(Math.abs(found.best!.delaySeconds * RATE + 82)).toBeLessThan(3);
  }
});
