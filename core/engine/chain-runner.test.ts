import { seededRandom } from '../formats';
import {
  equalizersOf,
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newTrack,
  type Band,
  type BandSettings,
  type Equalizer,
  type Song,
} from '../song';
import { ChainRunner, latencyOf } from './chain-runner';
import { compileSong } from './compile';
import { type CompiledChain } from './compile-chain';
import { Engine } from './engine';
import { threadKernel } from './kernel/kernel';
import { songKernels } from './song-kernels';
import { renderMix } from './render';
import type { SampleSource } from './source';

const RATE = 48000;
const LENGTH = 96000;

const band = (type: BandSettings['type'], hz: number, rest: Partial<BandSettings> = {}): Band => ({
  ...newBandSettings(type, hz),
  ...rest,
  id: `${type}${hz}`,
  letter: 'A',
});
const equalizer = (id: string, phase: Equalizer['phase'], ...bands: Band[]): Equalizer => ({
  ...emptyEqualizer(id),
  phase,
  bands,
});
const songOf = (...chain: Equalizer[]): Song => ({
  ...emptySong('Chain'),
  tracks: [
    {
      ...newTrack({ audioId: 'ab'.repeat(32), channels: 2, lengthFrames: LENGTH }, { id: 't', name: 't', ink: 0 }),
      chain,
    },
  ],
});
const kernelsOf = (song: Song) => songKernels(song);
const chainOf = (song: Song): CompiledChain => compileSong(song).tracks[0].chain;

const random = seededRandom(4);
const noise = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
const both = {
  channels: 2 as const,
  read: (frame: number, count: number, left: Float64Array, right: Float64Array) => {
    for (let n = 0; n < count; n++) {
      left[n] = noise[frame + n] ?? 0;
      right[n] = noise[(frame + n * 7 + 11) % LENGTH];
    }
  },
};

const tone = {
  channels: 2 as const,
  read: (frame: number, count: number, left: Float64Array, right: Float64Array) => {
    for (let n = 0; n < count; n++) left[n] = right[n] = 0.25 * Math.sin((2 * Math.PI * 100 * (frame + n)) / RATE);
  },
};

function rendered(song: Song, source: SampleSource = both): Float64Array[] {
  const sides = [new Float64Array(LENGTH), new Float64Array(LENGTH)];
  for (const { left, right, frames, frame } of renderMix(compileSong(song), () => source, kernelsOf(song))) {
    sides[0].set(left.subarray(0, frames), frame);
    sides[1].set(right.subarray(0, frames), frame);
  }
  return sides;
}
const apart = (first: Float64Array, second: Float64Array) =>
  first.reduce((most, value, n) => Math.max(most, Math.abs(value - second[n])), 0);

/** A runner that has listened to a chain, and what it makes of the noise from then on. */
function running(...songs: Song[]) {
  const runner = new ChainRunner(RATE);
  const kernels = new Map(songs.flatMap(kernelsOf).map(({ kernelId, kernel }) => [kernelId, kernel]));
  const update = (song: Song, changes: Partial<CompiledChain> = {}, immediately = false) =>
    runner.update({ ...chainOf(song), ...changes }, kernels, immediately);
  update(songs[0], {}, true);
  let at = 0;
  const hear = (frames: number, block = 128): Float64Array => {
    const out = noise.slice(at, at + frames);
    for (let n = 0; n < frames; n += block) {
      const piece = out.subarray(n, Math.min(frames, n + block));
      runner.process(piece, null, piece.length);
    }
    at += frames;
    return out;
  };
  return { update, hear, place: () => at };
}
const power = (samples: Float64Array) => samples.reduce((sum, value) => sum + value * value, 0) / samples.length;

test('an equalizer of linear phase acts where it stands in the chain', () => {
  const left = band('low-shelf', 1000, { gainDb: 12, channel: 'left' });
  const mid = band('low-shelf', 1000, { gainDb: -12, channel: 'mid' });
  const orders = [
    songOf(equalizer('a', 'linear', left), equalizer('b', 'minimum', mid)),
    songOf(equalizer('b', 'minimum', mid), equalizer('a', 'linear', left)),
  ];
  // The same two with linear phase only, which keeps their order by its matrix: alike but for the phase of one shelf.
  const twins = orders.map((song) =>
    songOf(equalizer('c', 'linear', ...equalizersOf(song.tracks[0].chain).flatMap(({ bands }) => bands))),
  );
  const powers = (songs: Song[]) => songs.map((song) => rendered(song, tone).map(power));
  const [first, second] = powers(orders);
  const wanted = powers(twins);
  for (const side of [0, 1]) {
    expect(10 * Math.log10(first[side] / wanted[0][side])).toBeCloseTo(0, 0);
    expect(10 * Math.log10(second[side] / wanted[1][side])).toBeCloseTo(0, 0);
  }
  expect(Math.abs(10 * Math.log10(first[0] / second[0]))).toBeGreaterThan(3);
});

test('an equalizer of linear phase that takes the place of another leaves no gap', () => {
  const [first, second] = ['a', 'b'].map((id) => songOf(equalizer(id, 'linear', band('bell', 500, { gainDb: 3 }))));
  const { update, hear } = running(first, second);
  const before = power(hear(48000).subarray(24000));
  update(second);
  const after = hear(36000);
  for (let at = 0; at + 1200 < after.length; at += 1200)
    expect(Math.abs(10 * Math.log10(power(after.subarray(at, at + 1200)) / before))).toBeLessThan(1.5);
});

test('bypassed, what goes in comes out, bit by bit and as late; the way there and back makes no step', () => {
  for (const phase of ['minimum', 'linear'] as const) {
    const song = songOf(equalizer('a', phase, band('bell', 400, { gainDb: 9, q: 2 })));
    const { update, hear, place } = running(song);
    const kernels = new Map(kernelsOf(song).map(({ kernelId, kernel }) => [kernelId, kernel]));
    const late = latencyOf(chainOf(song), kernels, RATE).whole;
    expect(late > 0).toBe(phase === 'linear');
    hear(20000);
    update(song, { bypassed: true });
    hear(20000);
    const heard = hear(5000);
    expect(heard).toEqual(noise.slice(place() - late - 5000, place() - late));
    update(song);
    hear(20000);
    const fresh = running(song);
    fresh.hear(65000);
    expect(apart(hear(5000), fresh.hear(5000))).toBeLessThan(1e-9);
  }
});

test('how the samples are cut into blocks does not matter, whatever changes', () => {
  const first = songOf(equalizer('a', 'minimum', band('bell', 400, { gainDb: 9, q: 2 }), band('high-pass', 80)));
  const moved = songOf(equalizer('a', 'minimum', band('bell', 400, { gainDb: -9, q: 4 }), band('high-pass', 80)));
  const second = songOf(equalizer('a', 'minimum', band('high-shelf', 3000, { gainDb: 6 })), equalizer('b', 'linear'));
  const outputs = [128, 512, 37].map((block) => {
    const { update, hear } = running(first, moved, second);
    const out = [hear(4800, block)];
    update(moved);
    out.push(hear(4800, block));
    update(second);
    out.push(hear(24000, block));
    update(first, { bypassed: true });
    out.push(hear(24000, block));
    return Float64Array.from(out.flatMap((part) => [...part]));
  });
  expect(apart(outputs[0], outputs[1])).toBeLessThan(1e-9);
  expect(apart(outputs[0], outputs[2])).toBeLessThan(1e-9);
  expect(Math.max(...outputs[0].slice(-5000))).toBeGreaterThan(0.1);
});

test('two renders of linear phase in one process are the same to the last bit', () => {
  const song = songOf(equalizer('a', 'linear', band('bell', 500, { gainDb: 3, channel: 'mid' })));
  const [left, right] = rendered(song);
  rendered(songOf(equalizer('other', 'linear')));
  expect(rendered(song)).toEqual([left, right]);
});

test('bands that come and go for hours use no more of the kernel’s memory', () => {
  const engine = new Engine(RATE, () => both);
  const out = new Float32Array(512);
  const switchTo = (order: number) => {
    engine.setSong(compileSong(songOf(equalizer('a', 'minimum', band('high-pass', 200, { order })))));
    for (let block = 0; block < 20; block++) engine.process(block * 512, 512, out, out);
  };
  const orders = [2, 16, 8];
  for (let i = 0; i < 30; i++) switchTo(orders[i % orders.length]);
  const allocated = jest.spyOn(threadKernel(), 'allocate');
  const places = new Set<number>();
  for (let i = 0; i < 300; i++) {
    switchTo(orders[i % orders.length]);
    for (const { value } of allocated.mock.results) places.add((value as { numbers: Float64Array }).numbers.byteOffset);
    allocated.mockClear();
  }
  allocated.mockRestore();
  expect(places.size).toBeGreaterThan(0);
  expect(places.size).toBeLessThan(12);
  engine.release();
});
