import { constant, db, run, settingsOf, sine, RATE } from './testing/run';

/** Level of a steady sound before and after a step down to silence of the key, with the key apart from the sound. */
const SOUND = constant(0.5, 2);
const bursts = (from: number, to: number, size: number, seconds = 2) =>
  Float64Array.from({ length: seconds * RATE }, (_, n) => (n >= from * RATE && n < to * RATE ? size : 0));
const gainDb = (out: Float64Array, seconds: number) => db(out[Math.round(seconds * RATE)] / 0.5);

test('shut, it takes its depth away within 0.1 dB; open, it gives the bits that it is given', () => {
  const gate = settingsOf('gate', { thresholdDb: -30, depthDb: -42 });
  const [shut] = run(gate, [SOUND], { key: constant(0.001, 2) });
  expect(gainDb(shut, 1.9)).toBeCloseTo(-42, 2);
  const [open] = run(gate, [SOUND], { key: constant(0.5, 2) });
  expect(open.subarray(RATE)).toEqual(SOUND.subarray(RATE));
});

test('its gain goes 1 − 1/e of its way in dB in the attack and in the release, within 5 %', () => {
  const gate = settingsOf('gate', {
    thresholdDb: -20,
    hysteresisDb: 0,
    depthDb: -40,
    attackMs: 20,
    holdMs: 0,
    releaseMs: 100,
  });
  const [out] = run(gate, [SOUND], { key: bursts(0.5, 1, 0.5) });
  const timeTo = (from: number, reached: (gain: number) => boolean) => {
    for (let n = Math.round(from * RATE); ; n++) if (reached(db(out[n] / 0.5))) return (1000 * n) / RATE - 1000 * from;
  };
  const share = 40 * (1 - 1 / Math.E);
  expect(Math.abs(timeTo(0.5, (gain) => gain >= -40 + share) / 20 - 1)).toBeLessThan(0.05);
  // The peak of the last millisecond keeps it open for that long.
  expect(Math.abs((timeTo(1, (gain) => gain <= -share) - 1) / 100 - 1)).toBeLessThan(0.05);
});

test('it stays open for the hold, to the millisecond, and between threshold and hysteresis', () => {
  const gate = settingsOf('gate', { thresholdDb: -20, hysteresisDb: 6, depthDb: -60, holdMs: 250, releaseMs: 5 });
  const [out] = run(gate, [SOUND], { key: bursts(0.5, 1, 0.5) });
  const shutAt = out.findIndex((value, n) => n > RATE && db(value / 0.5) < -0.5);
  expect(Math.abs((1000 * shutAt) / RATE - 1250)).toBeLessThan(1.5);
  const between = Float64Array.from({ length: 2 * RATE }, (_, n) => (n < 0.2 * RATE ? 0.2 : 0.07));
  expect(gainDb(run(gate, [SOUND], { key: between })[0], 1.9)).toBeCloseTo(0, 6);
  expect(gainDb(run(gate, [SOUND], { key: constant(0.07, 2) })[0], 1.9)).toBeCloseTo(-60, 2);
});

test('with look-ahead it is open before what opens it is there', () => {
  const gate = settingsOf('gate', { thresholdDb: -20, depthDb: -60, attackMs: 0.5, lookAheadMs: 5 });
  const sound = bursts(0.5, 1, 0.5, 2);
  const [out] = run(gate, [sound]);
  const late = Math.round(0.005 * RATE);
  expect(db(out[0.5 * RATE + late] / 0.5)).toBeGreaterThan(-0.1);
});

test('a depth that is moved leaves nothing beside a sine: −80 dB', () => {
  const gate = settingsOf('gate', { thresholdDb: 0, depthDb: -6 });
  const sound = sine(1000, 1, 0.5);
  const [out] = run(gate, [sound], { move: { at: RATE / 2, settings: { ...gate, depthDb: -18 } } });
  expect(besides(out)).toBeLessThan(-80);
});

/** Greatest second difference beyond what the sine itself has, dB beside it: a click is one. */
function besides(out: Float64Array): number {
  const w = (2 * Math.PI * 1000) / RATE;
  let most = 0;
  for (let n = RATE / 4; n < out.length - 1; n++)
    most = Math.max(most, Math.abs(out[n + 1] - 2 * Math.cos(w) * out[n] + out[n - 1]));
  return db(most / 0.5);
}
