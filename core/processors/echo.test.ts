import { db, RATE, run, settingsOf, sine } from './testing/run';

const impulse = (seconds = 3) => {
  const samples = new Float64Array(seconds * RATE);
  samples[0] = 1;
  return samples;
};
const echo = settingsOf('echo', { timeMs: 250, feedbackPercent: 50, wetDb: 0 });
const at = (samples: Float64Array, seconds: number) => samples[Math.round(seconds * RATE)];

test('repeats come at their times, each lower by what comes back', () => {
  const [out] = run(echo, [impulse()]);
  expect(out[0]).toBe(1);
  expect([0.25, 0.5, 0.75, 1].map((time) => at(out, time))).toEqual([1, 0.5, 0.25, 0.125]);
  expect(out.filter((value) => Math.abs(value) > 1e-9).length).toBeLessThan(14);
});

test('crossing, they change sides', () => {
  const [left, right] = run({ ...echo, crossing: true, dry: false }, [impulse(), impulse()]);
  expect([0.25, 0.5, 0.75].map((time) => [at(left, time), at(right, time)])).toEqual([
    [1, 0],
    [0, 0.5],
    [0.25, 0],
  ]);
});

test('a time between two frames is kept: a sine comes back in that phase', () => {
  const timeMs = 10.0131;
  const tone = sine(997, 1);
  const [out] = run({ ...echo, timeMs, feedbackPercent: 0, dry: false }, [tone]);
  let most = 0;
  for (let n = RATE / 2; n < RATE; n++)
    most = Math.max(most, Math.abs(out[n] - Math.sin(2 * Math.PI * 997 * (n / RATE - timeMs / 1000))));
  expect(db(most)).toBeLessThan(-80);
});

test('each time round, what comes back is cut by its range', () => {
  const range = { lowHz: 300, highHz: 3000 };
  const level = (hz: number) => {
    const [out] = run({ ...echo, feedbackPercent: 0, dry: false, range }, [sine(hz, 1)]);
    return db(out.subarray(0.8 * RATE).reduce((most, value) => Math.max(most, Math.abs(value)), 0));
  };
  expect(level(950)).toBeGreaterThan(-0.5);
  expect(level(300)).toBeCloseTo(-3, 0);
  expect(level(75)).toBeLessThan(-23);
  expect(level(12000)).toBeLessThan(-23);
});

test('a time that is moved goes over without a step', () => {
  const tone = sine(200, 2, 0.5);
  const [out] = run({ ...echo, feedbackPercent: 0 }, [tone], {
    move: { at: RATE, settings: { ...echo, feedbackPercent: 0, timeMs: 333 } },
  });
  const steps = out.map((value, n) => (n === 0 ? 0 : Math.abs(value - out[n - 1])));
  const most = (from: number, to: number) => Math.max(...steps.subarray(from, to));
  expect(most(RATE, RATE + 4000)).toBeLessThan(2.2 * most(0.5 * RATE, 0.9 * RATE));
});
