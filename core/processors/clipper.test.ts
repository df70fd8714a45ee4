import fc from 'fast-check';
import FFT from 'fft.js';
import { newProcessor } from '../song';
import { clipped, clipperCurve, makeRunner, type ProcessorSettings } from '.';
import { clippedArea } from './clipper-curve';
import { Oversampling } from './oversampling';
import { db, RATE, run, settingsOf, sine } from './testing/run';

const LATE = Oversampling.latencyFrames;
/** A length in which a sine of whole periods fits a transform. */
const LENGTH = 16384;

/** Amplitudes of a stretch that repeats, by frequency number. */
function spectrum(samples: Float64Array): Float64Array {
  const fft = new FFT(LENGTH);
  const out = fft.createComplexArray();
  fft.realTransform(out, Array.from(samples.subarray(samples.length - LENGTH)));
  return Float64Array.from({ length: LENGTH / 2 }, (_, k) => (2 * Math.hypot(out[2 * k], out[2 * k + 1])) / LENGTH);
}

test('what a 5 kHz sine that is driven 12 dB into the ceiling folds back at 48 kHz stays below −80 dB, soft and hard', () => {
  // 5 kHz to the nearest frequency that repeats in the transform; a whole odd number of periods, so that what folds lies beside the harmonics.
  const periods = 1707;
  const tone = sine((periods * RATE) / LENGTH, 1.2);
  for (const bend of [0, 0.3, 1]) {
    const [out] = run(settingsOf('clipper', { driveDb: 12, bend }), [tone]);
    const levels = spectrum(out);
    const folded = levels.map((level, k) => (k % periods === 0 ? 0 : level));
    expect(db(Math.max(...folded) / levels[periods])).toBeLessThan(-80);
    // The harmonics below half the rate are there: it is not silent because it does nothing.
    expect(db(levels[3 * periods] / levels[periods])).toBeGreaterThan(-30);
  }
});

test('a slow sine comes out along the static curve', () => {
  const tone = sine(50, 0.4);
  for (const bend of [0.2, 0.5, 1]) {
    const curve = clipperCurve(-6, bend);
    const [out] = run(settingsOf('clipper', { driveDb: 9, ceilingDb: -6, bend }), [tone]);
    for (let n = 2000; n < tone.length; n += 7)
      expect(Math.abs(out[n] - clipped(tone[n - LATE] * 10 ** (9 / 20), curve))).toBeLessThan(2e-3);
  }
});

test('below the bend the sound is left as it is up to 18 kHz, late by what is said', () => {
  for (const hz of [100, 1000, 10000, 18000]) {
    const tone = sine(hz, 0.3, 0.4);
    const [out] = run(settingsOf('clipper', { bend: 0.3 }), [tone]);
    let most = 0;
    for (let n = 4000; n < tone.length; n++) most = Math.max(most, Math.abs(out[n] - tone[n - LATE]));
    expect(db(most / 0.4)).toBeLessThan(-56);
  }
});

test('the area is the integral of the curve, and the curve is odd, never above its ceiling, without a step in its slope', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -4, max: 4, noNaN: true }),
      fc.double({ min: -24, max: 0, noNaN: true }),
      fc.double({ min: 0.01, max: 1, noNaN: true }),
      (value, ceilingDb, bend) => {
        const curve = clipperCurve(ceilingDb, bend);
        const d = 1e-5;
        const slope = (clippedArea(value + d, curve) - clippedArea(value - d, curve)) / (2 * d);
        expect(Math.abs(slope - clipped(value, curve))).toBeLessThan(1e-6);
        expect(clipped(-value, curve)).toBe(-clipped(value, curve));
        expect(Math.abs(clipped(value, curve))).toBeLessThanOrEqual(curve.ceiling + 1e-12);
        expect(Math.abs(clipped(value + d, curve) - clipped(value, curve))).toBeLessThanOrEqual(d + 1e-12);
      },
    ),
    { seed: 5 },
  );
});

test.each(['clipper', 'limiter', 'reverb'] as const)('a %s tells that one side alone is no number any more', (kind) => {
  for (const broken of [0, 1]) {
    const runner = makeRunner(newProcessor(kind, 'x') as ProcessorSettings, RATE);
    const sides = () => [0, 1].map(() => new Float64Array(128).fill(0.3));
    const pass = ([left, right]: Float64Array[]) => runner.process(left, right, left, right, 128);
    const hurt = sides();
    hurt[broken][100] = NaN;
    pass(hurt);
    // What is slow to come out is waited for.
    for (let block = 0; block < 40 && runner.isSound; block++) pass(sides());
    expect(runner.isSound).toBe(false);
    runner.reset();
    const after = sides();
    pass(after);
    expect(runner.isSound).toBe(true);
    expect(after.every((side) => side.every(Number.isFinite))).toBe(true);
  }
});
