import fc from 'fast-check';
import { seededRandom } from '../formats';
import {
  emptyEqualizer,
  emptySong,
  FIGURES,
  MASTER_ID,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  OWN_KEY,
  PROCESSOR_KINDS,
  type Bus,
  type Chain,
  type ChainProcessor,
  type Figure,
  type ProcessorKind,
  type Song,
  type Track,
} from '../song';
import { ChainRunner } from './chain-runner';
import { compileSong } from './compile';
import { kernelRequests } from './compile-chain';
import { Engine } from './engine';
import { designKernel } from './kernels';
import { renderMix } from './render';
import type { SampleSource } from './source';
import { residueDb } from './testing/residue';

const RATE = 48000;
const LENGTH = 24000;

const track = (id: string, channels: 1 | 2, chain: Chain = []): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  chain,
});
const bus = (id: string, chain: Chain = [], changes: Partial<Bus> = {}): Bus => ({
  ...newBus({ id, name: id, ink: 0 }),
  chain,
  ...changes,
});
const processor = <K extends ProcessorKind>(
  kind: K,
  changes: Partial<Extract<ChainProcessor, { kind: K }>> = {},
  id: string = kind,
): ChainProcessor => ({ ...newProcessor(kind, id), ...changes }) as ChainProcessor;
const key = (stripId: string, lowHz: number | null = null, highHz: number | null = null) => ({
  stripId,
  lowHz,
  highHz,
});

/** Bursts of noise, other ones for each track. */
function sourceOf(id: string): SampleSource {
  const random = seededRandom(id.charCodeAt(0));
  const sides = [0, 1].map(() =>
    Float64Array.from(
      { length: LENGTH },
      (_, n) => (random() - 0.5) * ((n + 1999 * id.charCodeAt(0)) % 9000 < 3000 ? 1 : 0.02),
    ),
  );
  return {
    channels: 2,
    read: (frame, count, left, right) => {
      for (let n = 0; n < count; n++) {
        left[n] = sides[0][frame + n] ?? 0;
        right[n] = sides[1][frame + n] ?? 0;
      }
    },
  };
}
const mono = (source: SampleSource): SampleSource => ({ ...source, channels: 1 });
const sources = new Map(['a', 'b', 'c', 'd'].map((id) => [id, sourceOf(id)]));
const channelsOf = ({ id, channels }: { id: string; channels: 1 | 2 }) =>
  channels === 1 ? mono(sources.get(id)!) : sources.get(id)!;

function offline(song: Song, of: (plan: { id: string; channels: 1 | 2 }) => SampleSource = channelsOf): Float64Array[] {
  const kernels = kernelRequests(song).map((request) => designKernel(request));
  const sides = [new Float64Array(LENGTH), new Float64Array(LENGTH)];
  const whole = { startFrame: 0, endFrame: LENGTH };
  for (const { left, right, frames, frame } of renderMix(compileSong(song), of, kernels, whole)) {
    sides[0].set(left.subarray(0, frames), frame);
    sides[1].set(right.subarray(0, frames), frame);
  }
  return sides;
}

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
const apartDb = (one: Float64Array[], other: Float64Array[]) =>
  20 *
  Math.log10(
    Math.max(
      1e-12,
      ...one.map((side, i) => side.reduce((most, value, n) => Math.max(most, Math.abs(value - other[i][n])), 0)),
    ),
  );
const peakOf = (samples: Float64Array) => samples.reduce((most, value) => Math.max(most, Math.abs(value)), 0);

/** Any processor within its ranges; times short enough for what is played. */
const anyProcessor = (id: string, strips: readonly string[]): fc.Arbitrary<ChainProcessor> =>
  fc.constantFrom<ChainProcessor['kind']>('equalizer', ...PROCESSOR_KINDS).chain((kind) => {
    const enabled = fc.boolean();
    if (kind === 'equalizer')
      return fc
        .record({
          enabled,
          phase: fc.constantFrom('minimum' as const, 'minimum' as const, 'linear' as const),
          hz: fc.double({ min: 100, max: 8000, noNaN: true }),
        })
        .map(({ hz, ...rest }) => ({
          ...emptyEqualizer(id),
          ...rest,
          bands: [
            { ...newBandSettings('bell', hz), gainDb: 4, id: `${id}-band`, letter: 'A' },
            {
              ...newBandSettings('low-shelf', hz / 2),
              id: `${id}-way`,
              letter: 'B',
              givesWay: {
                amountDb: -9,
                thresholdDb: -40,
                attackMs: 5,
                holdMs: 10,
                releaseMs: 60,
                key: key(strips[strips.length - 1], 200, null),
              },
            },
          ],
        }));
    const figures = Object.fromEntries(
      Object.entries<Figure>(FIGURES[kind]).map(([field, { min, max }]) => [
        field,
        fc.double({ min, max, noNaN: true }),
      ]),
    );
    const keyed = fc.constantFrom(...strips).map((stripId) => key(stripId, null, stripId === OWN_KEY ? 3000 : null));
    return fc.record({ enabled, ...figures, key: keyed }).map(({ key, ...rest }) => {
      const made = { ...newProcessor(kind, id), ...rest } as ChainProcessor;
      return 'key' in made ? { ...made, key } : made;
    });
  });

/** Any song of three tracks, a group and a return, whose processors listen to strips that come before them. */
const anySong: fc.Arbitrary<Song> = fc
  .record({
    a: fc.array(anyProcessor('p', [OWN_KEY]), { maxLength: 2 }),
    b: fc.tuple(anyProcessor('p', [OWN_KEY, 'a']), anyProcessor('q', [OWN_KEY, 'a'])),
    c: fc.array(anyProcessor('p', [OWN_KEY, 'a', 'b']), { maxLength: 1 }),
    group: fc.tuple(anyProcessor('p', [OWN_KEY, 'c'])),
    room: fc.tuple(anyProcessor('p', [OWN_KEY, 'a', 'c'])),
    master: fc.array(anyProcessor('p', [OWN_KEY, 'group']), { maxLength: 1 }),
    delayMs: fc.double({ min: -20, max: 20, noNaN: true }),
  })
  .map(({ delayMs, ...chains }) => {
    const send = { busId: 'room', gainDb: -6, tap: 'after-fader' as const, enabled: true };
    return {
      ...emptySong('Any'),
      tracks: [
        { ...track('a', 1, chains.a), sends: [send] },
        { ...track('b', 2, chains.b), outputId: 'group', delayMs },
        { ...track('c', 2, chains.c), pan: 0.3, sends: [{ ...send, tap: 'before-fader' as const, enabled: true }] },
        track('d', 1),
      ],
      buses: [bus('group', chains.group), bus('room', chains.room)],
      master: { id: MASTER_ID, gainDb: 0, chain: chains.master },
    };
  });

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
    tracks: plain.tracks.map((one) => ({ ...one, chain: off })),
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

/** A sine of 1 kHz through a chain that becomes another one, from the change on. */
function changed(from: Chain, to: Chain): Float64Array {
  const chainOf = (chain: Chain) =>
    compileSong({ ...emptySong('Moves'), tracks: [track('a', 1, chain)] }).tracks[0].chain;
  const runner = new ChainRunner(RATE);
  runner.update(chainOf(from), new Map(), true);
  const out = new Float64Array(65536);
  const block = new Float64Array(128);
  for (let frame = -48000; frame < out.length; frame += 128) {
    if (frame === 128 * 40) runner.update(chainOf(to), new Map(), false);
    for (let n = 0; n < 128; n++) block[n] = 0.25 * Math.sin((2 * Math.PI * 1000 * (frame + n)) / RATE);
    runner.process(block, null, 128);
    if (frame >= 0) out.set(block, frame);
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
  ['the room decays longer', [room], [{ ...room, decaySeconds: 4 } as ChainProcessor]],
])('nothing clicks when %s: at most −80 dB beside a sine', (_, from, to) => {
  expect(residueDb(changed(from, to), RATE, 1000, 150)).toBeLessThan(-80);
});
