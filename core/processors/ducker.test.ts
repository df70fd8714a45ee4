import { givingGainDb } from '.';
import { constant, db, noise, RATE, run, settingsOf, sine } from './testing/run';

const loud = constant(0.5, 2);
const levelDb = (samples: Float64Array) =>
  10 * Math.log10(samples.subarray(RATE).reduce((sum, value) => sum + value * value, 0));

test('while its key is silent it gives the bits that it is given, whole or in a range', () => {
  const sound = noise(1, 3);
  const silent = new Float64Array(RATE);
  for (const range of [
    { lowHz: null, highHz: null },
    { lowHz: 60, highHz: 120 },
    { lowHz: null, highHz: 300 },
    { lowHz: 2000, highHz: null },
  ])
    expect(run(settingsOf('ducker', { depthDb: 24, range }), [sound, sound], { key: silent })[1]).toEqual(sound);
});

test('while its key sounds, the whole gives way by its depth within 0.1 dB, in the attack within 5 %', () => {
  const ducker = settingsOf('ducker', { depthDb: 20, attackMs: 25, releaseMs: 100 });
  const key = Float64Array.from({ length: 2 * RATE }, (_, n) => (n < RATE ? 0 : 0.5));
  const [out] = run(ducker, [loud], { key });
  expect(db(out.at(-1)! / 0.5)).toBeCloseTo(-20, 2);
  const reached = out.findIndex((value) => db(value / 0.5) <= -20 * (1 - 1 / Math.E)) - RATE;
  expect(Math.abs((1000 * reached) / RATE / 25 - 1)).toBeLessThan(0.05);
});

test.each([3, 12, 36, 48])(
  'a range gives way by %s dB in its middle within 0.1 dB where it is two octaves wide, and is drawn as it sounds; an octave beside it at most half a decibel is changed',
  (depthDb) => {
    const range = { lowHz: 200, highHz: 800 };
    const ducker = settingsOf('ducker', { depthDb, range });
    const change = (hz: number) => {
      const sound = sine(hz, 2, 0.1);
      return levelDb(run(ducker, [sound], { key: loud })[0]) - levelDb(sound);
    };
    expect(Math.abs(change(400) + depthDb)).toBeLessThan(0.1);
    for (const hz of [100, 1600, 30, 8000]) expect(Math.abs(change(hz))).toBeLessThan(0.5);
    for (const hz of [120, 200, 400, 800, 1300])
      expect(Math.abs(change(hz) - givingGainDb(range, depthDb, depthDb, hz))).toBeLessThan(0.15);
  },
);

test('open ends: all below, or all above', () => {
  const below = settingsOf('ducker', { depthDb: 12, range: { lowHz: null, highHz: 300 } });
  const above = settingsOf('ducker', { depthDb: 12, range: { lowHz: 3000, highHz: null } });
  const change = (ducker: typeof below, hz: number) =>
    levelDb(run(ducker, [sine(hz, 2)], { key: loud })[0]) - levelDb(sine(hz, 2));
  expect(Math.abs(change(below, 50) + 12)).toBeLessThan(0.2);
  expect(change(below, 600)).toBeCloseTo(0, 1);
  expect(change(above, 1500)).toBeCloseTo(0, 1);
  expect(Math.abs(change(above, 9000) + 12)).toBeLessThan(0.2);
});
