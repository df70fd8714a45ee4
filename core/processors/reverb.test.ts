import type { Reverb } from '@/core/song';
import { designBand } from '@/core/filters';
import { BAND_DEFAULTS } from '@/core/song';
import { decayAt } from '.';
import { lineLengths } from './reverb-line';
import { db, noise, RATE, run, settingsOf } from './testing/run';

const SECONDS = 4;
const impulse = (seconds = SECONDS) => {
  const samples = new Float64Array(seconds * RATE);
  samples[0] = 1;
  return samples;
};
const room = (changes: Partial<Reverb> = {}) =>
  settingsOf('reverb', {
    dry: false,
    wetDb: 0,
    preDelayMs: 0,
    decaySeconds: 1.5,
    lowRatio: 1,
    highRatio: 1,
    ...changes,
  });
const ringing = (changes: Partial<Reverb> = {}, seconds = SECONDS) =>
  run(room(changes), [impulse(seconds), impulse(seconds)]);

/** An octave about a frequency: a Butterworth filter of the fourth order on each side. */
function octave(samples: Float64Array, hz: number): Float64Array {
  let out = samples;
  const ends = [
    { ...BAND_DEFAULTS, type: 'high-pass' as const, frequencyHz: hz / Math.SQRT2, order: 4 },
    { ...BAND_DEFAULTS, type: 'low-pass' as const, frequencyHz: hz * Math.SQRT2, order: 4 },
  ];
  for (const { b0, b1, b2, a1, a2 } of ends.flatMap((end) => designBand(end, RATE))) {
    let [x1, x2, y1, y2] = [0, 0, 0, 0];
    out = out.map((x) => {
      const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
      [x2, x1, y2, y1] = [x1, x, y1, y];
      return y;
    });
  }
  return out;
}

/** Time of a fall by 60 dB, by Schroeder's backward integration between −5 and −35 dB: ISO 3382-1:2009, T30. */
function decaySeconds(samples: Float64Array): number {
  const left = new Float64Array(samples.length);
  let sum = 0;
  for (let n = samples.length - 1; n >= 0; n--) left[n] = sum += samples[n] ** 2;
  const points: [number, number][] = [];
  for (let n = 0; n < samples.length; n += 48) {
    const level = 10 * Math.log10(left[n] / left[0]);
    if (level <= -5 && level >= -35) points.push([n / RATE, level]);
  }
  const mean = (i: 0 | 1) => points.reduce((all, point) => all + point[i], 0) / points.length;
  const [mx, my] = [mean(0), mean(1)];
  const slope =
    points.reduce((all, [x, y]) => all + (x - mx) * (y - my), 0) / points.reduce((all, [x]) => all + (x - mx) ** 2, 0);
  return -60 / slope;
}

test.each([
  ['even', {}],
  ['short highs', { highRatio: 0.4, highHz: 4000 }],
  ['long lows', { lowRatio: 1.6, lowHz: 250 }],
  ['a small room', { sizePercent: 10, decaySeconds: 0.6 }],
  ['a large one', { sizePercent: 100, decaySeconds: 2.4 }],
])('%s: in octaves from 125 Hz to 8 kHz it decays as it is drawn, within 5 %%', (_, changes) => {
  const [left] = ringing(changes);
  for (let hz = 125; hz <= 8000; hz *= 2) {
    const drawn = decayAt(room(changes), hz);
    expect(Math.abs(decaySeconds(octave(left, hz)) / drawn - 1)).toBeLessThan(0.05);
  }
  if (!('lowRatio' in changes) && !('highRatio' in changes))
    expect(decayAt(room(changes), 1000)).toBeCloseTo(room(changes).decaySeconds, 2);
});

test('echoes lie dense, and none of them comes back periodically: autocorrelation of the tail at most 0.2', () => {
  const [left] = ringing({}, 2);
  const tail = left.subarray(0.3 * RATE, 0.7 * RATE).map((value, n) => value * 10 ** ((3 * n) / RATE / 1.5));
  const power = tail.reduce((sum, value) => sum + value * value, 0);
  let most = 0;
  for (let lag = Math.round(0.002 * RATE); lag < 0.1 * RATE; lag++) {
    let sum = 0;
    for (let n = lag; n < tail.length; n++) sum += tail[n] * tail[n - lag];
    most = Math.max(most, Math.abs(sum / power));
  }
  expect(most).toBeLessThan(0.2);
  // Dense: a tail of noise lies beyond its standard deviation for 32 % of the time (J. S. Abel, P. Huang, AES 121, 2006).
  for (const from of [0.15, 0.3, 0.6]) {
    const part = left.subarray(from * RATE, (from + 0.02) * RATE);
    const deviation = Math.sqrt(part.reduce((sum, value) => sum + value * value, 0) / part.length);
    const beyond = part.filter((value) => Math.abs(value) > deviation).length / part.length;
    expect(beyond / 0.3173).toBeGreaterThan(0.85);
  }
});

test('it ends in true silence, and is the same each time', () => {
  const [left, right] = ringing({ decaySeconds: 0.3 }, 4);
  expect(left.subarray(3 * RATE).every((value) => value === 0)).toBe(true);
  expect(left.some((value) => value !== 0)).toBe(true);
  expect(ringing({ decaySeconds: 0.3 }, 4)[1]).toEqual(right);
});

test('noise is about as loud in the room as without it, however long it rings; no width is mono; sides have little in common', () => {
  const sound = noise(4, 6);
  const rms = (samples: Float64Array) =>
    Math.sqrt(samples.subarray(2 * RATE).reduce((sum, v) => sum + v * v, 0) / (2 * RATE));
  for (const changes of [{ decaySeconds: 0.5 }, { decaySeconds: 2 }, { sizePercent: 0 }, { sizePercent: 100 }]) {
    const [left] = run(room(changes), [sound, noise(4, 8)]);
    expect(Math.abs(db(rms(left) / rms(sound)))).toBeLessThan(1.5);
  }
  const [left, right] = run(room({ widthPercent: 0 }), [sound, noise(4, 8)]);
  expect(left).toEqual(right);
  const [first, second] = run(room(), [sound, sound]);
  const together = first.reduce((sum, value, n) => sum + value * second[n], 0);
  const power = Math.sqrt(first.reduce((sum, v) => sum + v * v, 0) * second.reduce((sum, v) => sum + v * v, 0));
  expect(Math.abs(together / power)).toBeLessThan(0.2);
});

test('lengths of the lines share no factor, whatever the size and the rate', () => {
  for (const rate of [44100, 48000, 96000])
    for (let size = 0; size <= 100; size += 5) expect(new Set(lineLengths(size, rate)).size).toBe(16);
});
