import type { Compressor } from '@/core/song';
import { compressorCurveDb } from '.';
import { constant, db, RATE, run, settingsOf, sine } from './testing/run';

/** Levels are those of a constant, whose peak is its size: so nothing of the detector is in the curve. */
const settled = (compressor: Compressor, levelDb: number) =>
  db(run(compressor, [constant(10 ** (levelDb / 20), 1.5)])[0].at(-1)!);

test.each([
  [4, 0, -20],
  [2, 12, -30],
  [20, 6, -12],
] as const)(
  'the static curve of ratio %s, knee %s dB, threshold %s dB is the published one within 0.1 dB',
  (ratio, kneeDb, thresholdDb) => {
    const compressor = settingsOf('compressor', { ratio, kneeDb, thresholdDb, attackMs: 5, releaseMs: 50 });
    for (let level = -60; level <= 0; level += 3) {
      // Giannoulis, Massberg and Reiss, J. Audio Eng. Soc. 60 (2012), equation 4, written out.
      const over = level - thresholdDb;
      let wanted = level;
      if (2 * Math.abs(over) <= kneeDb && kneeDb > 0)
        wanted = level + ((1 / ratio - 1) * (over + kneeDb / 2) ** 2) / (2 * kneeDb);
      else if (over > 0) wanted = thresholdDb + over / ratio;
      expect(Math.abs(settled(compressor, level) - wanted)).toBeLessThan(0.1);
      expect(Math.abs(compressorCurveDb(level, compressor) - wanted)).toBeLessThan(1e-9);
    }
  },
);

test('a limit lets nothing rise above its threshold, once it has settled', () => {
  const compressor = settingsOf('compressor', { limits: true, kneeDb: 0, thresholdDb: -18 });
  expect(settled(compressor, -3)).toBeCloseTo(-18, 3);
});

test('what it takes goes 1 − 1/e of its way in the attack, and comes back so in the release, within 5 %', () => {
  const compressor = settingsOf('compressor', {
    limits: true,
    kneeDb: 0,
    thresholdDb: -20,
    attackMs: 30,
    releaseMs: 200,
  });
  const sound = Float64Array.from({ length: 3 * RATE }, (_, n) => (n >= RATE && n < 2 * RATE ? 1 : 0.1));
  const [out] = run(compressor, [sound]);
  const taken = out.map((value, n) => db(sound[n] / value));
  const up = taken.findIndex((value, n) => n >= RATE && value >= 20 * (1 - 1 / Math.E)) - RATE;
  const down = taken.findIndex((value, n) => n >= 2 * RATE && value <= 20 / Math.E) - 2 * RATE;
  expect(Math.abs((1000 * up) / RATE / 30 - 1)).toBeLessThan(0.05);
  expect(Math.abs((1000 * down) / RATE / 200 - 1)).toBeLessThan(0.05);
});

test('the RMS detector reads a sine as its peak', () => {
  const compressor = settingsOf('compressor', {
    detector: 'rms',
    limits: true,
    kneeDb: 0,
    thresholdDb: -20,
    attackMs: 50,
    releaseMs: 50,
  });
  const [out] = run(compressor, [sine(997, 2)]);
  const peak = out.subarray(RATE).reduce((most, value) => Math.max(most, Math.abs(value)), 0);
  expect(Math.abs(db(peak) + 20)).toBeLessThan(0.1);
});

test('both sides are moved together by the louder; make-up and mix add up as written', () => {
  const compressor = settingsOf('compressor', { limits: true, kneeDb: 0, thresholdDb: -20 });
  const [left, right] = run(compressor, [constant(0.1, 1), constant(1, 1)]);
  expect(db(left.at(-1)!)).toBeCloseTo(-40, 3);
  expect(db(right.at(-1)!)).toBeCloseTo(-20, 3);
  const half = { ...compressor, mixPercent: 50, makeUpDb: 6 };
  expect(settled(half, 0)).toBeCloseTo(db(0.5 + 0.5 * 10 ** (-14 / 20)), 3);
});

test('below its threshold it leaves every bit', () => {
  const compressor = settingsOf('compressor', { thresholdDb: -10, kneeDb: 0 });
  const quiet = sine(1000, 0.5, 0.2);
  expect(run(compressor, [quiet])[0]).toEqual(quiet);
});
