import fc from 'fast-check';
import FFT from 'fft.js';
import { seededRandom } from '../formats';
import {
  emptyEqualizer,
  emptySong,
  MASTER_ID,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  type Band,
  type ChainProcessor,
  type FigureRef,
  type Passage,
  type PassageChange,
  type Song,
  type Track,
} from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { songKernels } from './song-kernels';
import { Player } from './player';
import { renderMix, type MixRange } from './render';
import type { SampleSource } from './source';
import { residueDb } from './testing/residue';

const RATE = 48000;
const LENGTH = 2 * RATE;

const source = (sample: (n: number) => number): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = frame + n >= 0 ? sample(frame + n) : 0;
  },
});
const random = seededRandom(31);
const noise = Float64Array.from({ length: 12 * RATE }, () => random() - 0.5);
const NOISE = source((n) => noise[n % noise.length]);
const STEADY = source(() => 0.5);
const sine = (hz: number) => source((n) => 0.5 * Math.sin((2 * Math.PI * hz * n) / RATE));

const band = (id: string, changes: Partial<Band>): Band => ({
  ...newBandSettings(changes.type ?? 'bell', 800),
  id,
  letter: id,
  ...changes,
});
const track = (bands: Band[], more: ChainProcessor[] = [], changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: LENGTH }, { id: 't', name: 't', ink: 0 }),
  pan: -1,
  chain: [{ ...emptyEqualizer('e'), bands }, ...more],
  ...changes,
});
const figure = (of: FigureRef['of'], partId: string, field: string, stripId = 't'): FigureRef => ({
  stripId,
  of,
  partId,
  field,
});
const to = (ref: FigureRef, value: number | boolean, points: PassageChange['points'] = []): PassageChange => ({
  figure: ref,
  value,
  points,
});
const passage = (
  startSeconds: number,
  endSeconds: number,
  changes: PassageChange[],
  more: Partial<Passage> = {},
): Passage => ({
  id: `${startSeconds}-${endSeconds}`,
  name: 'Passage',
  startSeconds,
  endSeconds,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  enabled: true,
  changes,
  ...more,
});
const song = (tracks: Track[], passages: Passage[], more: Partial<Song> = {}): Song => ({
  ...emptySong('Test'),
  tracks,
  passages,
  ...more,
});

const kernelsOf = (first: Song) => songKernels(first);

/** The left side of a render. */
function offline(first: Song, from: SampleSource, range?: MixRange): Float64Array {
  const compiled = compileSong(first);
  const whole = range ?? { startFrame: 0, endFrame: compiled.lengthFrames };
  const out = new Float64Array(whole.endFrame - whole.startFrame);
  for (const { left, frames, frame } of renderMix(compiled, () => from, kernelsOf(first), whole))
    out.set(left.subarray(0, frames), frame - whole.startFrame);
  return out;
}

/** The left side of what is heard, in blocks of some sizes in turn. */
function live(
  first: Song,
  from: SampleSource,
  {
    sizes = [128],
    seek = 0,
    frames = LENGTH,
    loop,
  }: { sizes?: readonly number[]; seek?: number; frames?: number; loop?: { start: number; end: number } } = {},
): Float64Array {
  const engine = new Engine(RATE, () => from);
  for (const { kernelId, kernel } of kernelsOf(first)) engine.addKernel(kernelId, kernel);
  const player = new Player(engine);
  player.setSong(compileSong(first));
  player.seek(seek);
  if (loop) player.setLoop(loop);
  player.play();
  const out = new Float64Array(frames);
  const [left, right] = [new Float32Array(4096), new Float32Array(4096)];
  for (let at = 0, i = 0; at < frames; i++) {
    const count = Math.min(sizes[i % sizes.length], frames - at);
    player.process(count, left.subarray(0, count), right.subarray(0, count));
    out.set(left.subarray(0, count), at);
    at += count;
  }
  return out;
}
/** The greatest difference of the second from the first, from a frame on, dBFS. */
function apartDb(first: Float64Array, b: Float64Array, from = 0): number {
  let most = 0;
  for (let n = from; n < first.length; n++) most = Math.max(most, Math.abs(first[n] - b[n]));
  return 20 * Math.log10(most);
}
/** 32-bit samples are rounded by so much. */
const IN_FLOATS = -120;
/** After this the fade of a start, and the beginning of the filters, are over. */
const SETTLED = Math.round(0.4 * RATE);

const BELL = band('b', { gainDb: 6, q: 2 });
const LOW = band('l', { type: 'low-pass', frequencyHz: 500, order: 4, enabled: false });
const compressor = { ...newProcessor('compressor', 'c'), thresholdDb: -30, enabled: false } as ChainProcessor;
const echo = { ...newProcessor('echo', 'd'), enabled: false } as ChainProcessor;

/** Every kind of change, at borders that are no multiples of anything. */
const KINDS: [string, PassageChange[]][] = [
  ['level', [to(figure('strip', '', 'gainDb'), -9)]],
  ['position', [to(figure('strip', '', 'pan'), 0.4)]],
  ['mute', [to(figure('strip', '', 'muted'), true)]],
  ['polarity', [to(figure('strip', '', 'polarityInverted'), true)]],
  ['gain of a band', [to(figure('band', 'b', 'gainDb'), -12)]],
  ['frequency of a band', [to(figure('band', 'b', 'frequencyHz'), 5000)]],
  ['width of a band', [to(figure('band', 'b', 'q'), 12)]],
  ['a band off', [to(figure('band', 'b', 'enabled'), false)]],
  ['a low-pass on', [to(figure('band', 'l', 'enabled'), true)]],
  [
    'a low-pass on, elsewhere',
    [to(figure('band', 'l', 'enabled'), true), to(figure('band', 'l', 'frequencyHz'), 3000)],
  ],
  ['an equalizer off', [to(figure('processor', 'e', 'enabled'), false)]],
  ['its output', [to(figure('processor', 'e', 'outputGainDb'), 4)]],
  ['a compressor on', [to(figure('processor', 'c', 'enabled'), true)]],
  ['an echo on', [to(figure('processor', 'd', 'enabled'), true)]],
  ['the master', [to(figure('strip', '', 'gainDb', MASTER_ID), -5)]],
  [
    'a line',
    [
      to(figure('band', 'b', 'frequencyHz'), 800, [
        { atSeconds: 0, value: 800 },
        { atSeconds: 0.3, value: 6000 },
      ]),
    ],
  ],
];

test.each(KINDS)(
  '%s sounds live as it is rendered, in blocks of any size, after a seek and from any place',
  (_, changes) => {
    const first = song(
      [track([BELL, LOW], [compressor, echo])],
      [passage(0.7013, 1.2047, changes), passage(1.4, 1.7003, changes, { fadeInSeconds: 0.1, fadeOutSeconds: 0.15 })],
    );
    const whole = offline(first, NOISE);
    expect(apartDb(whole, live(first, NOISE), SETTLED)).toBeLessThan(IN_FLOATS);
    expect(apartDb(whole, live(first, NOISE, { sizes: [64, 333, 1, 4096, 200] }), SETTLED)).toBeLessThan(IN_FLOATS);
    for (const seek of [Math.round(0.9 * RATE), Math.round(0.6003 * RATE)]) {
      const rest = live(first, NOISE, { seek, frames: LENGTH - seek });
      // An echo of what was not played is not heard.
      const settled = changes.some(({ figure: { partId } }) => partId === 'd') ? LENGTH : SETTLED;
      expect(apartDb(whole.subarray(seek), rest, settled)).toBeLessThan(IN_FLOATS);
    }
    const startFrame = Math.round(1.01 * RATE);
    expect(apartDb(whole.subarray(startFrame), offline(first, NOISE, { startFrame, endFrame: LENGTH }))).toBeLessThan(
      -200,
    );
  },
);

const anyPassage = fc
  .tuple(
    fc.constantFrom(...KINDS),
    fc.double({ min: 0, max: 1.8, noNaN: true }),
    fc.double({ min: 0.01, max: 1, noNaN: true }),
    fc.double({ min: 0, max: 0.5, noNaN: true }),
  )
  .map(([[, changes], start, length, fade]) =>
    passage(start, start + length, changes, { fadeInSeconds: fade * length, fadeOutSeconds: fade * length }),
  );

test('any passages, one over the other too, sound live as they are rendered (seed 14)', () => {
  fc.assert(
    fc.property(
      fc.array(anyPassage, { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 40, max: 700 }),
      (all, size) => {
        const passages = all.map((passage, i) => ({ ...passage, id: `p${i}` }));
        const tune = song([track([BELL, LOW], [compressor])], passages);
        expect(apartDb(offline(tune, NOISE), live(tune, NOISE, { sizes: [size] }), SETTLED)).toBeLessThan(IN_FLOATS);
      },
    ),
    { seed: 14, numRuns: 25 },
  );
});

test.each([
  ['level', to(figure('strip', '', 'gainDb'), -9), []],
  ['mute', to(figure('strip', '', 'muted'), true), []],
  ['band off', to(figure('band', 'b', 'enabled'), false), []],
  ['low-pass on', to(figure('band', 'l', 'enabled'), true), []],
  ['level behind a late processor', to(figure('strip', '', 'gainDb'), -9), [newProcessor('limiter', 'late')]],
  [
    'compressor behind a late processor',
    to(figure('processor', 'c', 'enabled'), true),
    [newProcessor('limiter', 'late'), compressor],
  ],
] as [string, PassageChange, ChainProcessor[]][])(
  'a step begins at its own sample and none before: %s',
  (_, change, more) => {
    const at = 48_211;
    const bands = [band('b', { type: 'low-shelf', gainDb: 6 }), { ...LOW, type: 'high-pass' as const }];
    const a = song([track(bands, more)], [passage(at / RATE, 1.5, [change])]);
    const plain = { ...a, passages: [] };
    const [with_, without] = [a, plain].map((each) => offline(each, STEADY));
    const first = with_.findIndex((value, n) => Math.abs(value - without[n]) > 1e-11);
    // Where the sound goes over to another filter, its curve begins so flatly that even 64 bits see it after three samples.
    expect(first).toBeGreaterThanOrEqual(at);
    expect(first).toBeLessThanOrEqual(at + 3);
    // Live the samples have 32 bits: the eased beginning is seen when it has grown to them. What is late runs ahead before it is heard.
    if (more.length > 0) return;
    const [heard, asIs] = [a, plain].map((each) => live(each, STEADY));
    const seen = heard.findIndex((value, n) => value !== asIs[n]);
    expect(seen).toBeGreaterThanOrEqual(at - 1);
    expect(seen).toBeLessThan(at + 80);
  },
);

test.each(KINDS)('nothing is heard beside a sine when a passage begins or ends: %s', (_, changes) => {
  const hz = 997;
  // What compresses or repeats changes the sine itself: what it adds is looked at where it has come to rest.
  const first = song(
    [track([BELL, LOW], [{ ...compressor, attackMs: 100, releaseMs: 4000 } as ChainProcessor])],
    [passage(0.4, 0.9, changes)],
    {},
  );
  const out = offline({ ...first, tracks: [{ ...first.tracks[0], lengthFrames: LENGTH }] }, sine(hz));
  expect(residueDb(out.subarray(0, 65536), RATE, hz, 400)).toBeLessThan(-80);
});

test('far from its passages a song gives the bits that it gives without them, and nothing that is heard beside them', () => {
  const [, changes] = KINDS.find(([name]) => name === 'a low-pass on')!;
  const first = song([track([BELL, LOW])], [passage(1, 1.2, changes)]);
  const [with_, without] = [first, { ...first, passages: [] }].map((each) => offline(each, NOISE));
  const ready = Math.round(0.45 * RATE);
  expect(with_.subarray(0, ready)).toEqual(without.subarray(0, ready));
  expect(apartDb(without.subarray(0, RATE), with_.subarray(0, RATE))).toBeLessThan(-270);
  expect(apartDb(without, with_, Math.round(1.9 * RATE))).toBeLessThan(-270);
});

test('a loop across a border is the same at every turn and in blocks of any size', () => {
  const first = song(
    [track([BELL, LOW])],
    [passage(0.5, 1, [to(figure('band', 'l', 'enabled'), true), to(figure('strip', '', 'gainDb'), -6)])],
  );
  const loop = { start: Math.round(0.7 * RATE), end: Math.round(1.3 * RATE) };
  const turn = loop.end - loop.start;
  const out = live(first, NOISE, { seek: loop.start, loop, frames: 4 * turn });
  expect(apartDb(out.subarray(2 * turn, 3 * turn), out.subarray(3 * turn))).toBeLessThan(IN_FLOATS);
  expect(
    apartDb(out, live(first, NOISE, { seek: loop.start, loop, frames: 4 * turn, sizes: [77, 512, 130] })),
  ).toBeLessThan(IN_FLOATS);
});

test('round a loop a border is as exact as the first time', () => {
  const on = to(figure('band', 'l', 'enabled'), true);
  const first = song([track([BELL, LOW])], [passage(0.5003, 0.7, [on])]);
  const loop = { start: Math.round(0.1 * RATE), end: Math.round(0.9 * RATE) };
  const turn = loop.end - loop.start;
  const out = live(first, NOISE, { seek: loop.start, loop, frames: 3 * turn });
  const [from, until] = [0.48, 0.75].map((seconds) => Math.round(seconds * RATE) - loop.start);
  const turns = [0, 1, 2].map((number) => out.subarray(number * turn + from, number * turn + until));
  expect(apartDb(turns[0], turns[1])).toBeLessThan(IN_FLOATS);
  expect(apartDb(turns[0], turns[2])).toBeLessThan(IN_FLOATS);
});

/** Real and imaginary parts up to half the rate, through a Hann window. */
function spectrumOf(samples: Float64Array): Float64Array {
  const fft = new FFT(samples.length);
  const out = fft.createComplexArray();
  fft.realTransform(
    out,
    Array.from(samples, (value, n) => value * Math.sin((Math.PI * n) / samples.length) ** 2),
  );
  return Float64Array.from(out.slice(0, samples.length));
}

test('a low-pass that opens over four bars is where its line is, within 3 %', () => {
  // Four bars of four at 96 to the minute: ten seconds.
  const seconds = 10;
  const [fromHz, toHz] = [200, 20000];
  const line = [
    { atSeconds: 0, value: fromHz },
    { atSeconds: seconds, value: toHz },
  ];
  const changes = [to(figure('band', 'l', 'enabled'), true), to(figure('band', 'l', 'frequencyHz'), fromHz, line)];
  const bands = [band('l', { type: 'low-pass', order: 2, enabled: false })];
  const opening = song([{ ...track(bands), lengthFrames: seconds * RATE }], [passage(0, seconds, changes)]);
  // By noise: what goes in and what comes out, looked at around each moment, summed over several noises.
  const size = 4096;
  const moments = Array.from({ length: 20 }, (_, i) => (i + 1) / 21);
  const sums = moments.map(() => ({ across: new Float64Array(size), power: new Float64Array(size / 2) }));
  for (let seed = 1; seed <= 8; seed++) {
    const next = seededRandom(seed);
    const into = Float64Array.from({ length: seconds * RATE }, () => next() - 0.5);
    const out = offline(
      opening,
      source((n) => into[n] ?? 0),
      { startFrame: 0, endFrame: into.length },
    );
    moments.forEach((moment, i) => {
      const first = Math.round(moment * seconds * RATE) - size / 2;
      const [x, y] = [into, out].map((samples) => spectrumOf(samples.subarray(first, first + size)));
      for (let k = 0; k < size; k += 2) {
        sums[i].across[k] += y[k] * x[k] + y[k + 1] * x[k + 1];
        sums[i].across[k + 1] += y[k + 1] * x[k] - y[k] * x[k + 1];
        sums[i].power[k / 2] += x[k] ** 2 + x[k + 1] ** 2;
      }
    });
  }
  const off = moments.map((moment, i) => {
    const wantedHz = fromHz * (toHz / fromHz) ** moment;
    const { across, power } = sums[i];
    // |H|² = 1 / (1 + (f/fc)⁴): the definition of a Butterworth filter of the second order; each frequency tells the corner.
    const corners: number[] = [];
    for (let k = Math.ceil((0.7 * wantedHz * size) / RATE); k <= (Math.min(1.4 * wantedHz, 20000) * size) / RATE; k++) {
      const gain = Math.hypot(across[2 * k], across[2 * k + 1]) / power[k];
      if (gain < 1) corners.push(((k * RATE) / size) * (1 / gain ** 2 - 1) ** -0.25);
    }
    return corners.sort((a, b) => a - b)[corners.length >> 1] / wantedHz - 1;
  });
  for (const share of off) expect(Math.abs(share)).toBeLessThan(0.03);
});

test('an equalizer of linear phase follows a line in steps that are not heard as clicks', () => {
  const line = [
    { atSeconds: 0, value: 0 },
    { atSeconds: 1.2, value: 12 },
  ];
  const linear = [{ ...emptyEqualizer('e'), phase: 'linear' as const, bands: [band('b', { gainDb: 0, q: 2 })] }];
  const first = song(
    [{ ...track([]), chain: linear }],
    [passage(0.3, 2, [to(figure('band', 'b', 'gainDb'), 12, line)])],
  );
  const out = offline(first, sine(800));
  for (let seconds = 0.35; seconds < 1.45; seconds += 0.05) {
    const cycles = out.subarray(Math.round(seconds * RATE), Math.round(seconds * RATE) + 600);
    const levelDb = 10 * Math.log10(cycles.reduce((sum, value) => sum + value * value, 0) / 600 / 0.125);
    // Half a step, and what the line moves by until a block ends and the next has faded over, at ten decibels a second.
    expect(Math.abs(levelDb - 10 * (seconds - 0.3))).toBeLessThan(0.75 + 10 * ((2 * 512 + 300) / RATE));
  }
  expect(residueDb(out.subarray(0, 65536), RATE, 800, 400)).toBeLessThan(-80);
});

test('passages of groups, sends and an equalizer of linear phase are heard', () => {
  const room = { ...newBus({ id: 'room', name: 'Room', ink: 0 }), gainDb: 0, pan: -1 };
  const send = { busId: 'room', gainDb: 0, tap: 'after-fader' as const, enabled: false };
  const linear = [{ ...emptyEqualizer('e'), phase: 'linear' as const, bands: [BELL] }];
  const first = song(
    [{ ...track([]), chain: linear, sends: [send] }],
    [
      passage(0.5, 1, [to(figure('send', 'room', 'enabled'), true)]),
      passage(1.2, 1.6, [to(figure('band', 'b', 'enabled'), false)]),
      passage(1.7, 1.9, [to(figure('strip', '', 'gainDb', 'room'), -60), to(figure('send', 'room', 'enabled'), true)]),
    ],
    { buses: [room] },
  );
  const whole = offline(first, NOISE);
  const rms = (from: number, until: number) => {
    const part = whole.subarray(Math.round(from * RATE), Math.round(until * RATE));
    return Math.sqrt(part.reduce((sum, value) => sum + value * value, 0) / part.length);
  };
  const plain = rms(0.3, 0.45);
  expect(20 * Math.log10(rms(0.6, 0.95) / plain)).toBeGreaterThan(5);
  expect(20 * Math.log10(rms(1.3, 1.5) / plain)).toBeLessThan(-0.2);
  expect(Math.abs(20 * Math.log10(rms(1.8, 1.88) / plain))).toBeLessThan(0.5);
});

test.each([
  ['short', []],
  ['longer than its head', [band('deep', { frequencyHz: 60, gainDb: 9, q: 8 })]],
])('with linear phase a passage is heard live as it is rendered, also after the song is set again: %s', (_, more) => {
  const line = [
    { atSeconds: 0, value: 0 },
    { atSeconds: 0.3, value: 12 },
  ];
  const bands = [band('b', { gainDb: 0, q: 2 }), ...more];
  const linear = [{ ...emptyEqualizer('e'), phase: 'linear' as const, bands }];
  const first = song(
    [{ ...track([]), chain: linear }],
    [
      passage(0.5, 1.1, [to(figure('band', 'b', 'gainDb'), 12, line)]),
      passage(1.31, 1.6, [to(figure('band', 'b', 'enabled'), false)]),
      passage(1.4, 1.4003, [to(figure('band', 'b', 'gainDb'), -12)]),
    ],
  );
  const whole = offline(first, NOISE);
  expect(songKernels(first)[0].kernel.tail !== null).toBe(more.length > 0);
  const settled = Math.round(0.4 * RATE);
  const heardBy = (blocks: readonly number[], setEvery: number) => {
    const engine = new Engine(RATE, () => NOISE);
    for (const { kernelId, kernel } of kernelsOf(first)) engine.addKernel(kernelId, kernel);
    const player = new Player(engine);
    player.setSong(compileSong(first));
    player.play();
    const heard = new Float64Array(LENGTH + 8192);
    const [left, right] = [new Float32Array(512), new Float32Array(512)];
    for (let at = 0, i = 0; at < heard.length; i++) {
      const count = Math.min(blocks[i % blocks.length], heard.length - at);
      if (i % setEvery === setEvery - 1) player.setSong(compileSong({ ...first, title: `${at}` }));
      player.process(count, left.subarray(0, count), right.subarray(0, count));
      heard.set(left.subarray(0, count), at);
      at += count;
    }
    // Nothing is heard while it runs ahead of an equalizer that is late.
    const late = Array.from({ length: 8192 }, (_, n) => n).find((n) =>
      [0, 1, 2, 3].every((k) => Math.abs(heard[settled + k + n] - whole[settled + k]) < 1e-6),
    )!;
    return heard.subarray(late, late + LENGTH);
  };
  for (const [blocks, setEvery] of [
    [[128], 1000000],
    [[128], 10],
    [[512, 77, 300], 1000000],
  ] as const)
    expect(apartDb(whole, heardBy(blocks, setEvery), settled)).toBeLessThan(IN_FLOATS);
});

test('with linear phase a passage begins at its sample', () => {
  const linear = [{ ...emptyEqualizer('e'), phase: 'linear' as const, bands: [BELL] }];
  const plain = song([{ ...track([]), chain: linear }], []);
  const a = song([{ ...track([]), chain: linear }], [passage(0.777, 1.1, [to(figure('band', 'b', 'gainDb'), -9)])]);
  const [without, within] = [offline(plain, NOISE), offline(a, NOISE)];
  const first = within.findIndex((value, n) => Math.abs(value - without[n]) > 1e-9);
  const border = Math.round(0.777 * RATE);
  expect(first).toBeGreaterThanOrEqual(border);
  // The sound goes over with four derivatives that vanish: what is farther apart than 1e-9 comes a little later.
  expect(first).toBeLessThan(border + 0.005 * RATE);
});
