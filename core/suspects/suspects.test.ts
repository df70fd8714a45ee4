import { bandsForSuspect, suspectQ, type Suspect } from '.';
import { ClickFinder } from './clicks';
import { SuspectFinder } from './finder';
import { Decimator } from './resonance/decimator';
import { toldMoments } from './suspect';

const RATE = 48000;

function random(seed: number): () => number {
  let state = seed;
  return () => (state = (Math.imul(1664525, state) + 1013904223) >>> 0) / 2 ** 31 - 1;
}

/** A plucked tune of changing notes: the sound that faults are planted in. */
function tune(seconds: number): Float64Array {
  const out = new Float64Array(seconds * RATE);
  const scale = [57, 60, 62, 64, 67, 69, 72];
  for (let i = 0; i * 0.5 < seconds; i++) {
    const hz = 440 * 2 ** ((scale[(i * 5) % 7] - 69) / 12);
    const start = Math.round(i * 0.5 * RATE);
    for (let n = 0; n < 0.5 * RATE && start + n < out.length; n++) {
      const decay = 0.1 * Math.min(1, n / (0.006 * RATE)) * Math.exp(-n / (0.09 * RATE));
      for (let k = 1; k <= 5; k++) out[start + n] += (decay / k) * Math.sin((2 * Math.PI * hz * k * n) / RATE);
    }
  }
  return out;
}

function found(samples: Float64Array): Suspect[] {
  const finder = new SuspectFinder(RATE, samples.length);
  for (let at = 0; at < samples.length; at += 9001) finder.push([samples.subarray(at, at + 9001)]);
  return finder.finish();
}
const plus = (samples: Float64Array, add: (n: number) => number) => samples.map((value, n) => value + add(n));
const clean = tune(14);
/** Kinds of what is rather there than not, by name. */
const sure = (samples: Float64Array) =>
  found(samples)
    .flatMap(({ kind, sureness }) => (sureness > 0.35 ? [kind] : []))
    .sort();

test('a clean tune has no suspects; silence and what is short have none', () => {
  expect(found(clean)).toEqual([]);
  expect(found(new Float64Array(5 * RATE))).toEqual([]);
  expect(found(clean.subarray(0, RATE))).toEqual([]);
});

test.each([1870, 5230])('a whistle of %i Hz that stays while the notes change', (hz) => {
  const [first, ...others] = found(plus(clean, (n) => 0.004 * Math.sin((2 * Math.PI * hz * n) / RATE)));
  expect(others).toEqual([]);
  expect(first.kind).toBe('resonance');
  expect(Math.abs(first.frequencyHz / hz - 1)).toBeLessThan(0.03);
  expect(first.timeShare).toBeGreaterThan(0.9);
});

// Mains of 50 and 60 Hz, off by half a percent: what networks are allowed to drift by is less.
test.each([50.2, 59.75])('hum of %f Hz and its harmonics', (hz) => {
  const mains = (n: number) =>
    [1, 2, 3, 4].reduce((sum, k) => sum + (0.003 / k) * Math.sin((2 * Math.PI * hz * k * n) / RATE), 0);
  const [first, ...others] = found(plus(clean, mains));
  expect(others).toEqual([]);
  expect(first).toMatchObject({ kind: 'hum' });
  expect(first.harmonics).toBeGreaterThanOrEqual(3);
  expect(Math.abs(first.frequencyHz / hz - 1)).toBeLessThan(0.003);
});

test('what hides the lowest harmonics of hum does not hide the hum; lines that do not agree on one frequency are none', () => {
  const lines = (places: readonly number[]) =>
    plus(clean, (n) => places.reduce((sum, hz) => sum + 0.002 * Math.sin((2 * Math.PI * hz * n) / RATE), 0));
  const kindsOf = (samples: Float64Array) => found(samples).map(({ kind }) => kind);
  expect(kindsOf(lines([150.3, 200.4, 250.5, 300.6]))).toContain('hum');
  // Each within what the mains drift by, and no two of them multiples of one frequency.
  expect(kindsOf(lines([50.25, 99.6, 150.0, 201.0]))).not.toContain('hum');
});

/** Noise through a low-pass, for rumble; as it is, for hiss. */
const [white, brown] = [clean.map(() => 0), clean.map(() => 0)];
{
  const noise = random(3);
  let low = 0;
  let lower = 0;
  for (let n = 0; n < brown.length; n++) {
    white[n] = 0.004 * noise();
    low += 0.004 * (noise() - low);
    lower += 0.004 * (low - lower);
    brown[n] = lower * 0.3;
  }
}

test('hiss and rumble that run under all that is played', () => {
  // Where much is seen through noise, a partial of the tune may be taken for a resonance, of which little is thought.
  expect(sure(plus(clean, (n) => white[n]))).toEqual(['hiss']);
  expect(sure(plus(clean, (n) => brown[n]))).toEqual(['rumble']);
});

test.each([
  ['moves', Infinity, (t: number) => ({ hz: 3170 * 2 ** (0.12 * Math.sin(0.9 * t)), level: 1 })],
  ['comes and goes', (2 * Math.PI) / 1.3, (t: number) => ({ hz: 3170, level: Math.max(0, Math.sin(1.3 * t)) })],
])('a whistle that %s while the notes change', (_, period, at) => {
  let phase = 0;
  const whistles = plus(clean, (n) => {
    const { hz, level } = at(n / RATE);
    phase += (2 * Math.PI * hz) / RATE;
    return 0.004 * level * Math.sin(phase);
  });
  const [first, ...others] = found(whistles).filter(({ sureness }) => sureness > 0.35);
  expect(others).toEqual([]);
  expect(first).toMatchObject({ kind: 'whistle' });
  // The one that comes and goes does so every 4.83 s.
  const offsets = first.moments!.map((seconds) => ((seconds + 0.5) % period) - 0.5);
  expect(Math.min(...offsets)).toBeGreaterThan(-0.4);
  expect(Math.max(...offsets)).toBeLessThan(1.2);
  expect(first.lowHz).toBeLessThan(3170);
  expect(first.highHz).toBeGreaterThan(3170);
  expect(first.highHz / first.lowHz).toBeLessThan(1.3);
});

test('clicks of single samples, and when they are; the edges of a sawtooth are none', () => {
  const moments = [1.23, 3.4, 7.26, 9.65];
  const clicks = clean.slice();
  for (const seconds of moments) clicks[Math.round(seconds * RATE)] += 0.05;
  const [first, ...others] = found(clicks);
  expect(others).toEqual([]);
  expect(first).toMatchObject({ kind: 'clicks', count: 4 });
  first.moments!.forEach((seconds, i) => expect(seconds).toBeCloseTo(moments[i], 1));
  expect(bandsForSuspect(first)).toEqual([]);
  // A sawtooth is made of edges.
  const saw = Float64Array.from({ length: 8 * RATE }, (_, n) => 0.2 * (((110.3 * n) / RATE) % 1) - 0.1);
  expect(found(saw).filter(({ kind }) => kind === 'clicks')).toEqual([]);
});

test.each([44100, 96000, 192000])('clicks at %i Hz, on one side only; noise alone has none', (rateHz) => {
  const noise = random(9);
  const left = Float64Array.from({ length: 6 * rateHz }, () => 0.01 * noise());
  const right = Float64Array.from(left, () => 0.01 * noise());
  const clicksOf = () => {
    const finder = new ClickFinder(rateHz);
    for (let at = 0; at < left.length; at += 9001)
      finder.push([left, right].map((side) => side.subarray(at, at + 9001)));
    return finder.finish();
  };
  expect(clicksOf()).toEqual([]);
  const moments = [0.5, 1.7, 2.9, 4.1, 5.3];
  for (const seconds of moments) left[Math.round(seconds * rateHz)] += 0.5;
  expect(clicksOf()).toMatchObject([{ kind: 'clicks', count: 5, moments }]);
});

/** Thumps of 55 Hz, one in two seconds. */
const pops = (n: number) => {
  const at = ((n + 0.7 * RATE) % (2 * RATE)) / RATE;
  // It ends where it has died away: what is cut off clicks.
  return at < 0.6 ? 0.05 * Math.exp(-at / 0.05) * Math.sin(2 * Math.PI * 55 * at) : 0;
};
const hum = (n: number) =>
  [1, 2, 3, 4].reduce((sum, k) => sum + (0.003 / k) * Math.sin((2 * Math.PI * 50.1 * k * n) / RATE), 0);
const whistle = (n: number) => 0.004 * Math.sin((2 * Math.PI * 3170 * n) / RATE);

test('thumps in a recording that has no lows, and when they are', () => {
  const [first, ...others] = found(plus(clean, pops));
  expect([first.kind, others]).toEqual(['pops', []]);
  // The first at 1.3 s, then one in two seconds: the eight loudest of them, in their order.
  expect(first.count).toBe(Math.floor((clean.length / RATE + 0.7) / 2));
  for (const seconds of first.moments!) expect(Math.abs(((seconds + 1.7) % 2) - 1)).toBeLessThan(0.08);
  expect(first.moments).toEqual([...first.moments!].sort((a, b) => a - b));
});

test('of many moments the eight most marked are told, in their order', () => {
  const many = Array.from({ length: 20 }, (_, i) => ({ seconds: i + 0.123, weight: i % 2 === 0 ? 20 - i : 0 }));
  const { count, moments } = toldMoments(many);
  expect(count).toBe(20);
  expect(moments).toEqual([0.12, 2.12, 4.12, 6.12, 8.12, 10.12, 12.12, 14.12]);
  const same = [1.001, 1.002, 3].map((seconds) => ({ seconds, weight: 1 }));
  expect(toldMoments(same)).toEqual({ count: 3, moments: [1, 3] });
  expect(toldMoments([])).toEqual({ count: 0, moments: [] });
});

test('of two faults neither hides the other, nor makes up a third', () => {
  const faults = {
    hiss: (n: number) => white[n],
    hum,
    pops,
    resonance: whistle,
    rumble: (n: number) => brown[n],
  };
  const names = Object.keys(faults) as (keyof typeof faults)[];
  const pairs = names.flatMap((first, i) => names.slice(i + 1).map((second) => [first, second] as const));
  for (const [first, second] of pairs)
    expect([first, second, sure(plus(clean, (n) => faults[first](n) + faults[second](n)))]).toEqual([
      first,
      second,
      [first, second],
    ]);
});

test('in a recording of minutes the same is found, by windows that lie apart', () => {
  const long = tune(100);
  expect(found(long)).toEqual([]);
  const both = found(plus(long, (n) => hum(n) + whistle(n)));
  expect(both.map(({ kind }) => kind).sort()).toEqual(['hum', 'resonance']);
  expect(Math.abs(both.find(({ kind }) => kind === 'hum')!.frequencyHz / 50.1 - 1)).toBeLessThan(0.003);
  expect(Math.abs(both.find(({ kind }) => kind === 'resonance')!.frequencyHz / 3170 - 1)).toBeLessThan(0.03);
});

test('a band fits what it is made for', () => {
  const first: Suspect = {
    kind: 'resonance',
    frequencyHz: 690,
    lowHz: 640,
    highHz: 740,
    prominenceDb: 14,
    timeShare: 1,
    sureness: 0.9,
    picture: { frequenciesHz: [], softDb: [], middleDb: [], loudDb: [], isRelative: true },
  };
  expect(suspectQ(first)).toBeCloseTo(6.9, 6);
  expect(bandsForSuspect(first)).toMatchObject([{ type: 'bell', frequencyHz: 690, gainDb: -14, q: 6.9 }]);
  const modes = [
    { frequencyHz: 52.04, q: 14.44, gainDb: 9.7, sureness: 0.1 },
    { frequencyHz: 104, q: 60, gainDb: 22, sureness: 0.9 },
  ];
  expect(bandsForSuspect({ ...first, kind: 'modes', modes })).toMatchObject([
    { type: 'bell', frequencyHz: 52, gainDb: -9.5, q: 14 },
    { type: 'bell', frequencyHz: 104, gainDb: -15, q: 40 },
  ]);
  expect(
    bandsForSuspect({ ...first, kind: 'hum', frequencyHz: 50, harmonics: 3 }).map(({ frequencyHz }) => frequencyHz),
  ).toEqual([50, 100, 150]);
  expect(bandsForSuspect({ ...first, kind: 'pops', highHz: 110 })).toMatchObject([
    { type: 'high-pass', frequencyHz: 110 },
  ]);
  expect(bandsForSuspect({ ...first, kind: 'hiss', lowHz: 2500 })).toMatchObject([{ type: 'high-shelf', gainDb: -6 }]);
  expect(bandsForSuspect({ ...first, kind: 'whistle', lowHz: 2000, highHz: 2420 })).toMatchObject([
    { type: 'bell', frequencyHz: 2200, gainDb: -14 },
  ]);
  expect(bandsForSuspect({ ...first, kind: 'sibilance', frequencyHz: 7000 })).toMatchObject([
    { type: 'bell', frequencyHz: 7000 },
  ]);
});

test.each([2, 3])('at a rate %d times lower pops are found as well, though less hisses there', (factor) => {
  const rateHz = RATE / factor;
  const samples = new Decimator(factor, 0.4 * rateHz, RATE).of(plus(clean, pops));
  const finder = new SuspectFinder(rateHz, samples.length);
  finder.push([samples]);
  expect(finder.finish().map(({ kind }) => kind)).toContain('pops');
});
