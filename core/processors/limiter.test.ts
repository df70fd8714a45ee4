import { TruePeakMeter } from '@/core/measure';
import { db, noise, RATE, run, settingsOf, sine } from './testing/run';

const truePeakDb = (sides: Float64Array[]) => {
  const meter = new TruePeakMeter(sides.length);
  meter.push(sides);
  return meter.finish();
};
/** Silence after it, in which what is late comes out. */
const ended = (samples: Float64Array) =>
  Float64Array.from({ length: samples.length + 1000 }, (_, n) => samples[n] ?? 0);
const scaled = (samples: Float64Array, gain: number) => samples.map((value) => gain * value);
/** Hits that fall away: a tone and noise. */
const drum = noise(2, 9).map((value, n) => {
  const since = (n % 12000) / RATE;
  return (2.5 * Math.sin(2 * Math.PI * 90 * since) + value) * Math.exp(-18 * since);
});
/** A quarter of the rate, sampled between its peaks: every sample is 3 dB below them. */
const between = Float64Array.from(
  { length: RATE },
  (_, n) => Math.SQRT2 * 1.4 * Math.sin((Math.PI / 2) * n + Math.PI / 4),
);

test.each([
  ['noise', scaled(noise(2, 4), 3)],
  ['drums', drum],
  ['peaks between samples', between],
  ['a tone that begins', sine(5210, 1, 2).map((value, n) => (n < 9000 ? 0 : value))],
  ['noise in bursts', noise(2, 7).map((value, n) => value * (n % 7000 < 900 ? 6 : 0.1))],
])('no true peak of %s comes out above the ceiling by more than 0.05 dB', (_, sound) => {
  for (const [ceilingDb, lookAheadMs, releaseMs] of [
    [-1, 3, 80],
    [-6, 1, 5],
    [-0.3, 10, 500],
  ]) {
    const limiter = settingsOf('limiter', { ceilingDb, lookAheadMs, releaseMs });
    const [left, right] = run(limiter, [ended(sound), ended(scaled(sound, -0.3))]);
    const peak = truePeakDb([left, right]);
    expect(peak).toBeLessThanOrEqual(ceilingDb + 0.05);
    // It takes no more than it must, by far.
    expect(peak).toBeGreaterThan(ceilingDb - 1.5);
  }
});

test('what stays below the ceiling comes out to the bit, late by what is said', () => {
  const sound = scaled(noise(1, 2), 0.3);
  const [out] = run(settingsOf('limiter', { ceilingDb: 0, lookAheadMs: 2 }), [sound]);
  const late = 0.002 * RATE + 24;
  expect(out.subarray(late)).toEqual(sound.subarray(0, sound.length - late));
});

test('after a peak the gain comes back in the release', () => {
  const sound = sine(200, 2, 0.4).map((value, n) => value * (n < RATE / 2 ? 5 : 1));
  const [out] = run(settingsOf('limiter', { ceilingDb: 0, releaseMs: 100 }), [sound]);
  const peakAround = (seconds: number) => {
    const from = Math.round(seconds * RATE);
    return db(out.subarray(from, from + 480).reduce((most, value) => Math.max(most, Math.abs(value)), 0) / 0.4);
  };
  expect(peakAround(0.52)).toBeLessThan(-3);
  expect(peakAround(1.6)).toBeCloseTo(0, 1);
});
