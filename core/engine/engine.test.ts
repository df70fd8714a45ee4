import { execFileSync } from 'node:child_process';
import {
  MASTER_ID,
  BAND_DEFAULTS,
  emptyEqualizer,
  emptySong,
  newBus,
  newTrack,
  type Bus,
  type Song,
  type Track,
} from '../song';
import { compileSong, panGains } from './compile';
import { Engine } from './engine';
import { MAX_BLOCK } from './kernel/layout';
import { compileHearing, PLAIN_HEARING } from './hearing';
import { renderMix } from './render';
import type { SampleSource } from './source';

const RATE = 48000;
const LENGTH = 4800;

/** A source that computes its samples. */
const computed = (channels: 1 | 2, sample: (n: number, channel: number) => number): SampleSource => ({
  channels,
  read: (frame, count, left, right) => {
    for (let n = 0; n < count; n++) {
      left[n] = sample(frame + n, 0);
      if (channels === 2) right[n] = sample(frame + n, 1);
    }
  },
});
const sine =
  (hz: number, level = 0.5) =>
  (n: number) =>
    level * Math.sin((2 * Math.PI * hz * n) / RATE);

const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack(
    { audioId: id.padEnd(64, '0').replace(/[^0-9a-f]/g, 'a'), channels: 1, lengthFrames: LENGTH },
    { id, name: id, ink: 0 },
  ),
  ...changes,
});
const bus = (id: string, changes: Partial<Bus> = {}): Bus => ({ ...newBus({ id, name: id, ink: 0 }), ...changes });
const song = (tracks: Track[], buses: Bus[] = [], changes: Partial<Song> = {}): Song => ({
  ...emptySong('Test'),
  tracks,
  buses,
  ...changes,
});

/** The whole mix as two arrays. */
function mixed(first: Song, sources: Record<string, SampleSource>): { left: Float64Array; right: Float64Array } {
  const left = new Float64Array(LENGTH);
  const right = new Float64Array(LENGTH);
  for (const block of renderMix(compileSong(first), (plan) => sources[plan.id])) {
    left.set(block.left.subarray(0, block.frames), block.frame);
    right.set(block.right.subarray(0, block.frames), block.frame);
  }
  return { left, right };
}
/** Equal but for the rounding of the last digits. */
const expectSame = (first: Float64Array, second: Float64Array) =>
  expect(peak(first.map((value, n) => value - second[n]))).toBeLessThan(1e-12);
const peak = (samples: Float64Array) => samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
const A = { a: computed(1, sine(440)) };

test('a mono track in the middle reaches each side at −3.01 dB, and its two sides carry its power', () => {
  const { left, right } = mixed(song([track('a')]), A);
  expect(left[100]).toBeCloseTo(sine(440)(100) * Math.SQRT1_2, 12);
  expect(right).toEqual(left);
});

test.each([-1, -0.5, 0, 0.3, 1])('the position law keeps the power of a mono track at position %f', (pan) => {
  const { leftGain, rightGain } = panGains(pan, 1);
  expect(leftGain ** 2 + rightGain ** 2).toBeCloseTo(1, 12);
  expect(Math.sign(rightGain - leftGain)).toBe(Math.sign(pan));
});

test('a stereo track in the middle passes as it is, and a track at an end leaves the other side silent', () => {
  const stereo = { a: computed(2, (n, c) => (c === 0 ? 0.25 : -0.5) + 0 * n) };
  const plain = mixed(song([track('a', { channels: 2 })]), stereo);
  expect([plain.left[7], plain.right[7]]).toEqual([0.25, -0.5]);
  const hard = mixed(song([track('a', { pan: 1 })]), A);
  expect(peak(hard.left)).toBe(0);
  expect(hard.right[100]).toBeCloseTo(sine(440)(100), 12);
});

test('a track and its double of turned polarity cancel to nothing', () => {
  const { left } = mixed(song([track('a'), track('b', { polarityInverted: true })]), { ...A, b: A.a });
  expect(peak(left)).toBe(0);
});

test('level, mute and solo', () => {
  const two = { ...A, b: computed(1, sine(1000)) };
  const both = mixed(song([track('a'), track('b')]), two).left;
  const onlyA = mixed(song([track('a')]), two).left;
  expect(mixed(song([track('a'), track('b', { muted: true })]), two).left).toEqual(onlyA);
  expect(mixed(song([track('a', { soloed: true }), track('b')]), two).left).toEqual(onlyA);
  expect(peak(mixed(song([track('a', { soloed: true, muted: true }), track('b')]), two).left)).toBe(0);
  expect(both).not.toEqual(onlyA);
  const lower = mixed(song([track('a', { gainDb: -6 })]), two).left;
  expect(lower[100] / onlyA[100]).toBeCloseTo(10 ** (-6 / 20), 12);
});

test('buses: level of the bus, solo through it, a chain of two', () => {
  const through = mixed(
    song([track('a', { outputId: 'x' })], [bus('y', { gainDb: -6 }), bus('x', { outputId: 'y' })]),
    A,
  ).left;
  const straight = mixed(song([track('a')]), A).left;
  expect(through[100] / straight[100]).toBeCloseTo(10 ** (-6 / 20), 12);
  const soloed = song([track('a', { outputId: 'x' }), track('b')], [bus('x', { soloed: true })]);
  expectSame(mixed(soloed, { ...A, b: computed(1, sine(1000)) }).left, straight);
});

test('sends: before the fader they ignore it, after it they follow it, and a muted track sends nothing', () => {
  const heard = (tap: 'before-fader' | 'after-fader', changes: Partial<Track>) => {
    const quiet = track('a', {
      sends: [{ busId: 'x', gainDb: 0, tap, enabled: true }],
      outputId: 'nowhere',
      ...changes,
    });
    return peak(mixed(song([quiet], [bus('x'), bus('nowhere', { muted: true })]), A).left);
  };
  expect(heard('before-fader', { gainDb: -60 })).toBeCloseTo(0.5, 3);
  expect(heard('after-fader', { gainDb: -20 })).toBeCloseTo(0.5 * Math.SQRT1_2 * 0.1, 3);
  expect(heard('before-fader', { muted: true })).toBe(0);
  expect(heard('after-fader', { muted: true })).toBe(0);
});

test('what is sent before the fader leaves the track itself as it is, both sides, however often it is sent', () => {
  const stereo = computed(2, (n, c) => (c === 0 ? 0.25 : -0.5) + 0 * n);
  const send = (busId: string) => ({ busId, gainDb: -6, tap: 'before-fader' as const, enabled: true });
  const sent = track('a', { channels: 2, gainDb: -3, sends: [send('x'), send('y')] });
  const { left, right } = mixed(song([sent], [bus('x'), bus('y')]), { a: stereo });
  const gain = 10 ** (-3 / 20) + 2 * 10 ** (-6 / 20);
  expect(left[100]).toBeCloseTo(0.25 * gain, 9);
  expect(right[100]).toBeCloseTo(-0.5 * gain, 9);
});

const notch = (id: string, frequencyHz: number) => ({
  ...emptyEqualizer(`${id}-equalizer`),
  bands: [{ ...BAND_DEFAULTS, id: 'n', letter: 'A', type: 'notch' as const, frequencyHz, q: 2 }],
});
const late = (samples: Float64Array) => peak(samples.subarray(LENGTH / 2));

test('every chain is heard: of the track, of its bus, of the master', () => {
  const plain = late(mixed(song([track('a')]), A).left);
  const places: Song[] = [
    song([track('a', { chain: [notch('a', 440)] })]),
    song([track('a', { outputId: 'x' })], [bus('x', { chain: [notch('x', 440)] })]),
    { ...song([track('a')]), master: { id: MASTER_ID, gainDb: 0, chain: [notch('m', 440)] } },
  ];
  for (const place of places) expect(late(mixed(place, A).left)).toBeLessThan(plain * 0.01);
  const off = song([track('a', { chain: [{ ...notch('a', 440), enabled: false }] })]);
  expect(late(mixed(off, A).left)).toBe(plain);
});

/** An engine that has run for half a second, so that everything is at rest. */
function rested(
  first: Song,
  hearing = PLAIN_HEARING,
): { engine: Engine; next: () => { left: Float64Array; right: Float64Array } } {
  const engine = new Engine(RATE, () => A.a);
  engine.setSong(compileHearing(first, hearing));
  let frame = 0;
  const next = () => {
    const left = new Float64Array(480);
    const right = new Float64Array(480);
    engine.process(frame, 480, left, right);
    frame += 480;
    return { left, right };
  };
  for (let i = 0; i < 50; i++) next();
  return { engine, next };
}

test('before is the mix without chains at the matched gain; mono is the mean of both sides', () => {
  const first = song([track('a', { pan: 1, chain: [notch('a', 440)] })]);
  const before = {
    ...PLAIN_HEARING,
    without: { kind: 'mix' as const },
    trimsDb: { [MASTER_ID]: 20 * Math.log10(0.5) },
  };
  expect(peak(rested(first).next().right)).toBeLessThan(0.01);
  expect(peak(rested(first, before).next().right)).toBeCloseTo(0.25, 3);
  const mono = rested(song([track('a', { pan: 1 })]), { ...PLAIN_HEARING, mono: true }).next();
  expect(mono.left).toEqual(mono.right);
  expect(peak(mono.left)).toBeCloseTo(0.25, 3);
});

test('the greatest step between samples while mute, level, position and polarity change stays that of the sine itself', () => {
  const changes: Partial<Track>[] = [
    { muted: true },
    { muted: false },
    { gainDb: -24 },
    { gainDb: 6 },
    { pan: -1 },
    { polarityInverted: true },
    { soloed: true },
  ];
  const { engine, next } = rested(song([track('a')]));
  const steepest = 0.5 * 10 ** (6 / 20) * ((2 * Math.PI * 440) / RATE);
  let last = 0;
  let state: Partial<Track> = {};
  for (const change of changes) {
    state = { ...state, ...change };
    engine.setSong(compileSong(song([track('a', state)])));
    let step = 0;
    for (let i = 0; i < 20; i++) {
      for (const value of next().left) {
        step = Math.max(step, Math.abs(value - last));
        last = value;
      }
    }
    expect(step).toBeLessThan(steepest * 1.25);
  }
});

test('a tap writes what goes in and what comes out of a chain', () => {
  const { engine, next } = rested(song([track('a', { chain: [notch('a', 440)] })]));
  const tap = { before: new Float32Array(1024), after: new Float32Array(1024) };
  engine.setTaps(new Map([['a', tap]]));
  next();
  next();
  expect(Math.max(...tap.before)).toBeCloseTo(0.5, 2);
  expect(Math.max(...tap.after)).toBeLessThan(0.01);
  expect(engine.tapPosition).toBe(52 * 480);
});

test('a monitor overhears both sides of a track after its fader, of the mix as it is heard, and changes nothing', () => {
  const first = song([track('a', { gainDb: -6, pan: 1 })]);
  const plain = rested(first);
  const { engine, next } = rested(first);
  const monitor = { left: new Float32Array(1024), right: new Float32Array(1024) };
  engine.setMonitor({ stripId: 'a', ...monitor });
  const heard = [next(), next()];
  expect(Math.max(...monitor.right)).toBeCloseTo(0.5 * 10 ** (-6 / 20), 3);
  expect(Math.max(...monitor.left)).toBeLessThan(1e-6);
  const expected = [plain.next(), plain.next()];
  heard.forEach(({ right }, i) => right.forEach((value, n) => expect(value).toBeCloseTo(expected[i].right[n], 7)));
  engine.setMonitor({ stripId: null, ...monitor });
  engine.setSong(
    compileSong(song([track('a', { gainDb: -6, pan: 1 })], [], { master: { ...first.master, gainDb: -12 } })),
  );
  for (let i = 0; i < 20; i++) next();
  expect(Math.max(...monitor.right)).toBeCloseTo(0.5 * 10 ** (-18 / 20), 3);
});

test('the levels are those of the last block', () => {
  const { engine, next } = rested(song([track('a', { gainDb: -6 })]));
  next();
  expect(engine.trackLevels(0).peak).toBeCloseTo(0.5 * 10 ** (-6 / 20) * Math.SQRT1_2, 3);
  // 4.4 periods of a sine are not a whole number: the mean power is right within 2 %.
  expect(engine.masterLevels.power / ((0.5 * 10 ** (-6 / 20)) ** 2 / 2)).toBeCloseTo(1, 1);
});

test('once its code is warm the engine allocates nothing (bench/allocation.ts)', () => {
  const out = execFileSync(process.execPath, ['scripts/run.mjs', 'bench/allocation.ts'], { encoding: 'utf8' });
  expect(JSON.parse(out).bytesPerQuantum).toBeLessThan(8);
});

describe('solo and sends', () => {
  const dry = (changes: Partial<Track> = {}) =>
    track('a', { sends: [{ busId: 'x', gainDb: -6, tap: 'after-fader', enabled: true }], ...changes });
  const level = (of: Song) => peak(mixed(of, { a: A.a, b: A.a }).left) / (0.5 * Math.SQRT1_2);

  test('a soloed return is heard by what is sent to it, without what goes past it', () => {
    expect(level(song([dry()], [bus('x')]))).toBeCloseTo(1 + 10 ** (-6 / 20), 2);
    expect(level(song([dry()], [bus('x', { soloed: true })]))).toBeCloseTo(10 ** (-6 / 20), 2);
    expect(level(song([dry({ muted: true })], [bus('x', { soloed: true })]))).toBe(0);
    expect(level(song([dry()], [bus('x'), bus('y', { soloed: true })]))).toBe(0);
    expect(level(song([dry(), track('b', { soloed: true })], [bus('x')]))).toBeCloseTo(1, 2);
  });

  test('a track that a solo leaves out shows no level, though its send is heard', () => {
    const engine = new Engine(RATE, () => A.a);
    engine.setSong(compileSong(song([dry()], [bus('x', { soloed: true })])));
    engine.process(0, 128, new Float64Array(128), new Float64Array(128));
    expect(engine.trackLevels(0)).toEqual({ peak: 0, power: 0 });
    expect(engine.masterLevels.peak).toBeGreaterThan(0.01);
  });

  test('a send to the master adds to it', () => {
    const sends: Track['sends'] = [{ busId: MASTER_ID, gainDb: 0, tap: 'after-fader', enabled: true }];
    expect(level(song([track('a', { sends })]))).toBeCloseTo(2, 2);
  });
});

describe('a sample that is no number', () => {
  const HARMED_AT = 1.5 * MAX_BLOCK;
  const harmed = (value: number): Record<string, SampleSource> => ({
    a: computed(1, (n) => (n === HARMED_AT ? value : sine(440)(n))),
    b: A.a,
  });
  const shaped = (id: string, outputId: string = MASTER_ID): Track => {
    const band = { ...BAND_DEFAULTS, type: 'bell' as const, frequencyHz: 300, gainDb: 9, id: 'p', letter: 'A' };
    return track(id, { outputId, chain: [{ ...emptyEqualizer('e'), bands: [band as never] }] });
  };

  test.each([NaN, Infinity, -Infinity])(
    '%f is silent for one block, and no longer: in a track, a bus, the master',
    (value) => {
      for (const outputId of [MASTER_ID, 'x']) {
        const tracks = [shaped('a', outputId), track('b')];
        const { left } = mixed(song(tracks, [bus('x')]), harmed(value));
        expect(left.every(Number.isFinite)).toBe(true);
        const whole = mixed(song(tracks, [bus('x')]), { a: A.a, b: A.a }).left;
        const other = mixed(song([track('b')]), { b: A.a }).left;
        expect(left.slice(MAX_BLOCK, 2 * MAX_BLOCK)).toEqual(other.slice(MAX_BLOCK, 2 * MAX_BLOCK));
        // The filter begins anew, and has caught up with the other after some milliseconds.
        expect(peak(left.slice(3000).map((sample, n) => sample - whole[3000 + n]))).toBeLessThan(1e-3);
        expect(peak(left.slice(0, MAX_BLOCK).map((sample, n) => sample - whole[n]))).toBe(0);
      }
    },
  );

  test('levels stay numbers', () => {
    const engine = new Engine(RATE, (plan) => harmed(NaN)[plan.id]);
    engine.setSong(compileSong(song([shaped('a'), track('b')])));
    const out = new Float64Array(128);
    for (let frame = 0; frame < LENGTH; frame += 128) {
      engine.process(frame, 128, out, out.slice());
      for (const levels of [engine.trackLevels(0), engine.trackLevels(1), engine.masterLevels])
        expect(Number.isFinite(levels.peak + levels.power)).toBe(true);
    }
  });
});

test('a part that is rendered begins as it sounds in the song: what rings from before it is in it', () => {
  const length = 6 * RATE;
  const band = { ...BAND_DEFAULTS, type: 'bell' as const, frequencyHz: 50, gainDb: 18, q: 20, id: 'p', letter: 'A' };
  const ringing = track('a', { lengthFrames: length, chain: [{ ...emptyEqualizer('e'), bands: [band as never] }] });
  const source = computed(1, (n) => (n < 4.5 * RATE ? sine(50, 0.05)(n) : 0));
  const rendered = (range?: { startFrame: number; endFrame: number }) => {
    const out: number[] = [];
    for (const { left, frames } of renderMix(compileSong(song([ringing])), () => source, [], range))
      out.push(...left.subarray(0, frames));
    return Float64Array.from(out);
  };
  const whole = rendered();
  for (const startFrame of [0, 1000, 220800, 240000]) {
    const part = rendered({ startFrame, endFrame: length });
    expect(part.length).toBe(length - startFrame);
    expect(peak(whole.slice(startFrame, startFrame + 2000))).toBeGreaterThan(startFrame === 0 ? 0.001 : 0.01);
    expect(peak(part.map((sample, n) => sample - whole[startFrame + n]))).toBeLessThan(1e-5);
  }
});
