import fc from 'fast-check';
import {
  emptyEqualizer,
  emptySong,
  newBandSettings,
  OWN_KEY,
  PROCESSOR_KINDS,
  type Chain,
  type ChainProcessor,
  type Song,
  type Track,
} from '../song';
import { ChainRunner } from './chain-runner';
import { compileSong } from './compile';
import { kernelRequests } from './compile-chain';
import { Engine } from './engine';
import { NO_KEYS } from './keys';
import { designKernel } from './kernels';
import type { SampleSource } from './source';
import { anySong, apartDb, bus, channelsOf, key, LENGTH, offline, processor, RATE, track } from './testing/any-song';
import { residueDb } from './testing/residue';

function live(song: Song, block: number): Float64Array[] {
  const engine = new Engine(RATE, channelsOf);
  for (const request of kernelRequests(song)) engine.addKernel(request.kernelId, designKernel(request).kernel);
  engine.setSong(compileSong(song));
  const late = engine.latencyFrames;
  const out = [new Float64Array(LENGTH), new Float64Array(LENGTH)];
  const [left, right] = [new Float64Array(block), new Float64Array(block)];
  for (let frame = 0; frame < LENGTH + late; frame += block) {
    engine.process(frame, block, left, right);
    for (let n = 0; n < block; n++) {
      const place = frame + n - late;
      if (place < 0 || place >= LENGTH) continue;
      out[0][place] = left[n];
      out[1][place] = right[n];
    }
  }
  engine.release();
  return out;
}
const peakOf = (samples: Float64Array) => samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

test('any song with processors, keys and sends sounds live as it is rendered, within −120 dBFS (seed 12)', () => {
  fc.assert(
    fc.property(anySong, (song) => {
      expect(apartDb(live(song, 128), offline(song))).toBeLessThan(-120);
    }),
    { seed: 12, numRuns: 40 },
  );
});

test('a chain whose processors are all off gives the bits of an empty one', () => {
  const off = PROCESSOR_KINDS.map((kind) => processor(kind, { enabled: false }));
  const plain: Song = { ...emptySong('Plain'), tracks: [track('a', 2), track('b', 1)] };
  const all = {
    ...plain,
    tracks: plain.tracks.map((strip) => ({ ...strip, chain: off })),
    master: { ...plain.master, chain: off },
  };
  const [left, right] = offline(all);
  const [plainLeft, plainRight] = offline(plain);
  expect(left).toEqual(plainLeft);
  expect(right).toEqual(plainRight);
});

/** One sample at a frame. */
const click = (at: number, size = 1): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = frame + n === at ? size : 0;
  },
});
const steady: SampleSource = { channels: 1, read: (_, count, left) => void left.fill(0.1, 0, count) };

test.each(['nothing', 'the key', 'the sound', 'both'])(
  'a key meets the sound to the sample, with latency on %s',
  (where) => {
    const late = processor('clipper', {}, 'late');
    const ducker = processor('ducker', {
      depthDb: 48,
      thresholdDb: -20,
      attackMs: 0.05,
      holdMs: 5,
      releaseMs: 5,
      key: key('a'),
    });
    const song: Song = {
      ...emptySong('Keys'),
      tracks: [
        { ...track('a', 1, where === 'the key' || where === 'both' ? [late, processor('limiter')] : []), muted: true },
        track('b', 1, where === 'the sound' || where === 'both' ? [late, ducker] : [ducker]),
        // What is late elsewhere changes nothing.
        track('c', 1, [processor('limiter', { lookAheadMs: 10 })]),
      ],
    };
    const [left] = offline(song, ({ id }) => (id === 'a' ? click(5000, 0.9) : id === 'b' ? steady : click(-1)));
    const before = left[4000];
    // A clipper's filters ring some samples ahead of a click.
    const begins = left.findIndex((value, n) => n > 4500 && value < 0.9 * before);
    expect(Math.abs(begins - 5000)).toBeLessThanOrEqual(where === 'nothing' || where === 'the sound' ? 3 : 12);
    expect(left[begins + 100]).toBeLessThan(0.01 * before);
  },
);

test('a muted or unheard strip is a key all the same; a strip may listen to a group, and a bus to a track behind it', () => {
  const gate = processor('gate', { thresholdDb: -30, depthDb: -90, key: key('group') });
  const song: Song = {
    ...emptySong('Keys'),
    tracks: [track('b', 1, [gate]), { ...track('a', 1), outputId: 'group', muted: false }],
    buses: [bus('group', [], { muted: true })],
  };
  const heard = (size: number) => {
    const [left] = offline(song, ({ id }) =>
      id === 'b' ? steady : { channels: 1, read: (_, count, left) => void left.fill(size, 0, count) },
    );
    return peakOf(left.subarray(LENGTH / 2));
  };
  expect(heard(0)).toBeLessThan(1e-4);
  expect(heard(0.5)).toBeCloseTo(0.1 * Math.SQRT1_2, 6);
});

test('a key that is a range leaves the sound as it is: an open gate gives the bits that it is given', () => {
  const gate = processor('gate', { thresholdDb: -90, holdMs: 2000, attackMs: 0.05, key: key(OWN_KEY, 100, 3000) });
  const open: Song = { ...emptySong('Key'), tracks: [track('a', 2, [gate]), track('b', 1, [gate])] };
  const plain = { ...open, tracks: [track('a', 2), track('b', 1)] };
  const [[left, right], [plainLeft, plainRight]] = [offline(open), offline(plain)];
  expect(left.subarray(4000)).toEqual(plainLeft.subarray(4000));
  expect(right.subarray(4000)).toEqual(plainRight.subarray(4000));
});

test('a key may be a range: hits above it do not open the gate', () => {
  const chain = (highHz: number | null) => [
    processor('gate', { thresholdDb: -30, depthDb: -90, key: key(OWN_KEY, null, highHz) }),
  ];
  const high: SampleSource = {
    channels: 1,
    read: (frame, count, left) => {
      for (let n = 0; n < count; n++) left[n] = 0.5 * Math.sin((2 * Math.PI * 5000 * (frame + n)) / RATE);
    },
  };
  const heard = (highHz: number | null) =>
    peakOf(
      offline({ ...emptySong('Key'), tracks: [track('a', 1, chain(highHz))] }, () => high)[0].subarray(LENGTH / 2),
    );
  expect(heard(500)).toBeLessThan(1e-4);
  expect(heard(null)).toBeGreaterThan(0.3);
});

/** A sine of 1 kHz, mono, through a chain that becomes another one, from the change on: both sides that come out. */
function changed(from: Chain, to: Chain): Float64Array[] {
  const chainOf = (chain: Chain) =>
    compileSong({ ...emptySong('Moves'), tracks: [track('a', 1, chain)] }).tracks[0].chain;
  const runner = new ChainRunner(RATE);
  runner.update(chainOf(from), new Map(), true);
  const out = [new Float64Array(65536), new Float64Array(65536)];
  const [block, other] = [new Float64Array(128), new Float64Array(128)];
  for (let frame = -48000; frame < out[0].length; frame += 128) {
    if (frame === 128 * 40) runner.update(chainOf(to), new Map(), false);
    for (let n = 0; n < 128; n++) block[n] = 0.25 * Math.sin((2 * Math.PI * 1000 * (frame + n)) / RATE);
    const { opens } = runner;
    runner.process(block, opens ? other : null, 128, NO_KEYS, true);
    if (frame < 0) continue;
    out[0].set(block, frame);
    out[1].set(opens ? other : block, frame);
  }
  return out;
}
const gate = processor('gate', { thresholdDb: -60, depthDb: -20 });
// Slow, since a fast one bends each period of a sine: that is no click.
const compressor = processor('compressor', { thresholdDb: -30, attackMs: 150, releaseMs: 2500 });
const clipper = processor('clipper', { driveDb: 0 });
const room = processor('reverb', { wetDb: -20 });
const echo = processor('echo');

test.each<[string, Chain, Chain]>([
  ['a compressor is added', [clipper], [clipper, compressor]],
  ['a compressor goes', [compressor], []],
  ['it is switched off', [compressor], [{ ...compressor, enabled: false }]],
  ['it is switched on', [{ ...compressor, enabled: false }], [compressor]],
  ['its threshold is moved', [compressor], [{ ...compressor, thresholdDb: -36, ratio: 6 } as ChainProcessor]],
  ['two change places', [gate, compressor], [compressor, gate]],
  ['an echo is added', [], [echo]],
  ['a clipper is driven', [clipper], [{ ...clipper, driveDb: 6 } as ChainProcessor]],
  ['a room is added between what is late and what reacts', [clipper, compressor], [clipper, room, compressor]],
  ['a room goes', [clipper, room, compressor], [clipper, compressor]],
  ['the room decays longer', [room], [{ ...room, decaySeconds: 4 } as ChainProcessor]],
])('nothing clicks when %s: at most −80 dB beside a sine', (_, from, to) => {
  for (const side of changed(from, to)) expect(residueDb(side, RATE, 1000, 150)).toBeLessThan(-80);
});

describe('a mono recording with a reverb or an echo in its chain', () => {
  const side = { ...newBandSettings('high-shelf', 2000), gainDb: 9, channel: 'side' as const };
  const equalizer = (id: string, phase: 'minimum' | 'linear'): ChainProcessor => ({
    ...emptyEqualizer(id),
    phase,
    bands: [{ ...side, id: `${id}-band`, letter: 'A' }],
  });
  const around = (...opening: Chain): Chain => [
    equalizer('before', 'minimum'),
    clipper,
    ...opening,
    equalizer('behind', 'minimum'),
    equalizer('late', 'linear'),
  ];
  const songOf = (channels: 1 | 2, chain: Chain, changes: Partial<Track> = {}): Song => ({
    ...emptySong('Opened'),
    tracks: [{ ...track('a', channels, chain), sideDb: -4, ...changes }],
  });
  const recording = channelsOf({ id: 'a', channels: 1 });
  /** The same on both sides. */
  const twice: SampleSource = {
    channels: 2,
    read: (frame, count, left, right) => {
      recording.read(frame, count, left, right);
      right.set(left.subarray(0, count));
    },
  };
  const crossing = processor('echo', { timeMs: 90, feedbackPercent: 60, crossing: true });

  test.each<[string, Chain]>([
    ['a reverb', around(room)],
    ['an echo whose sides cross', around(crossing)],
    ['both', around(crossing, room)],
  ])('%s: two sides come out, as of a stereo recording whose sides are alike, 3.01 dB softer', (_, chain) => {
    const [left, right] = offline(songOf(1, chain), () => recording);
    expect(apartDb([left], [right])).toBeGreaterThan(-30);
    const asStereo = { ...songOf(2, chain), master: { ...emptySong('').master, gainDb: -10 * Math.log10(2) } };
    expect(
      apartDb(
        [left, right],
        offline(asStereo, () => twice),
      ),
    ).toBeLessThan(-120);
  });

  test('what stands before it is mono; off, and without it, what comes out is mono too', () => {
    const before: Chain = [equalizer('before', 'minimum'), clipper];
    const plain = offline(songOf(1, before), () => recording);
    expect(plain[0]).toEqual(plain[1]);
    expect(offline(songOf(1, [...before, { ...room, enabled: false }]), () => recording)).toEqual(plain);
    expect(offline(songOf(1, [...before, { ...crossing, enabled: false }]), () => recording)).toEqual(plain);
  });

  test('at the side each side keeps its share of the position law', () => {
    const [left, right] = offline(songOf(1, [room], { pan: 1 }), () => recording);
    expect(peakOf(left)).toBe(0);
    expect(peakOf(right)).toBeGreaterThan(0.1);
  });
});
