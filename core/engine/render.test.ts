import { seededRandom } from '../formats';
import {
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  type Band,
  type BandChannel,
  type BandSettings,
  type ChainProcessor,
  type Song,
  type Track,
} from '../song';
import { compileSong } from './compile';
import { inLongerBlocks, renderMix, TrackGroup, type MixBlock } from './render';
import { PAGE_FRAMES, PagedSource, type SampleSource } from './source';

const LENGTH = PAGE_FRAMES + 9000;

/** Noise with a silent stretch, over a page's end, and with a beginning that lies before the song's. */
function recording(channels: 1 | 2, seed: number): PagedSource {
  const random = seededRandom(seed);
  const source = new PagedSource(channels, LENGTH);
  for (let page = 0; page < source.pageCount; page++) {
    const frames = Math.min(PAGE_FRAMES, LENGTH - page * PAGE_FRAMES);
    const isSilent = (n: number) => page === 0 && n % frames > 20000 && n % frames < 60000;
    source.setPage(
      page,
      Float32Array.from({ length: frames * channels }, (_, n) => (isSilent(n) ? 0 : random() - 0.5)),
    );
  }
  return source;
}

const band = (type: BandSettings['type'], hz: number, channel: BandChannel = 'stereo'): Band => ({
  ...newBandSettings(type, hz),
  gainDb: 6,
  channel,
  id: `${type}${hz}`,
  letter: 'A',
});
const track = (id: string, channels: 1 | 2, bands: Band[], changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: id.padEnd(64, '0'), channels, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  chain: bands.length > 0 ? [{ ...emptyEqualizer(`${id}-e`), bands }] : [],
  ...changes,
});
const song: Song = {
  ...emptySong('Render'),
  tracks: [
    track('a', 1, [band('bell', 300), band('high-pass', 80), band('high-shelf', 5000)], { pan: -0.4 }),
    track('b', 2, [band('bell', 700), band('bell', 900, 'left')], { gainDb: -7, outputId: 'x' }),
    track('c', 2, [band('bell', 700, 'mid'), band('bell', 900, 'side')]),
    track('d', 1, [], { muted: true }),
    track('e', 2, [], { polarityInverted: true, pan: 1 }),
    track('f', 1, [band('notch', 1000)], { sends: [{ busId: 'x', gainDb: -3, tap: 'after-fader', enabled: true }] }),
    track('g', 2, [band('all-pass', 1000), band('low-pass', 30)], { gainDb: -40 }),
  ],
  buses: [
    { ...newBus({ id: 'x', name: 'x', ink: 0 }), chain: [{ ...emptyEqualizer('x-e'), bands: [band('tilt', 800)] }] },
  ],
};
const sources = new Map(song.tracks.map(({ id, channels }, i) => [id, recording(channels, i + 1)]));

function rendered(sourceOf: (source: PagedSource) => SampleSource, range = { startFrame: 0, endFrame: LENGTH }) {
  const left = new Float64Array(LENGTH);
  const right = new Float64Array(LENGTH);
  for (const block of renderMix(compileSong(song), ({ id }) => sourceOf(sources.get(id)!), [], range)) {
    left.set(block.left.subarray(0, block.frames), block.frame);
    right.set(block.right.subarray(0, block.frames), block.frame);
  }
  return [left, right];
}
const apart = (some: Float64Array[], others: Float64Array[]) =>
  Math.max(
    ...some.map((side, s) => side.reduce((most, value, n) => Math.max(most, Math.abs(value - others[s][n])), 0)),
  );
test('the short way of a render gives what the way of the live engine gives, and the same bits each time', () => {
  const fast = rendered((source) => source);
  const calls = jest.spyOn(PagedSource.prototype, 'readFloats');
  expect(rendered((source) => source)).toEqual(fast);
  expect(calls.mock.calls.length).toBeGreaterThan(50);
  calls.mockRestore();
  // Without 32-bit samples at hand a track goes the way of the live engine.
  const slow = rendered((source) => ({ channels: source.channels, read: source.read.bind(source) }));
  expect(apart(fast, slow)).toBeLessThan(1e-12);
  expect(apart(fast, [new Float64Array(LENGTH), new Float64Array(LENGTH)])).toBeGreaterThan(0.5);
});

test('a part that begins and ends anywhere is that part of the whole', () => {
  const whole = rendered((source) => source);
  const range = { startFrame: 30001, endFrame: 71003 };
  const part = rendered((source) => source, range).map((side) => side.slice(range.startFrame, range.endFrame));
  expect(
    apart(
      part,
      whole.map((side) => side.slice(range.startFrame, range.endFrame)),
    ),
  ).toBeLessThan(1e-12);
});

test('what is muted and what is silent is not run; a group opens its own recordings alone', () => {
  const asked = new Set<string>();
  const group = new TrackGroup(
    compileSong(song),
    ({ id }) => {
      asked.add(id);
      return sources.get(id);
    },
    [],
    [3, 6],
  );
  expect([...asked].sort()).toEqual(['d', 'g']);
  const reads = jest.spyOn(PagedSource.prototype, 'readFloats');
  group.mix(0, 512);
  expect(new Set(reads.mock.contexts)).toEqual(new Set([sources.get('g')]));
  reads.mockRestore();
  group.release();
});

test('in longer blocks a mix is the same to the last bit, whatever part of it', () => {
  const compiled = compileSong(song);
  const plain = (blocks: Iterable<MixBlock>) => {
    const all: { frame: number; left: number[]; right: number[] }[] = [];
    for (const { left, right, frames, frame } of blocks)
      all.push({ frame, left: [...left.subarray(0, frames)], right: [...right.subarray(0, frames)] });
    return all;
  };
  const range = { startFrame: 5000, endFrame: 5000 + 3 * 4096 + 77 };
  const mixed = () => renderMix(compiled, ({ id }) => sources.get(id), [], range);
  const [short, long] = [plain(mixed()), plain(inLongerBlocks(mixed()))];
  expect(long.map(({ frame, left }) => [frame, left.length])).toEqual([
    [5000, 4096],
    [9096, 4096],
    [13192, 4096],
    [17288, 77],
  ]);
  for (const side of ['left', 'right'] as const)
    expect(long.flatMap((block) => block[side])).toEqual(short.flatMap((block) => block[side]));
});

test.each<[string, ChainProcessor]>([
  ['a room of twelve seconds', { ...newProcessor('reverb', 'r'), decaySeconds: 12, wetDb: 0 } as ChainProcessor],
  [
    'an echo that goes on',
    { ...newProcessor('echo', 'r'), timeMs: 950, feedbackPercent: 60, wetDb: 0 } as ChainProcessor,
  ],
])('a part holds what rings from long before it: %s', (_, ringing) => {
  const stroke: SampleSource = {
    channels: 1,
    read: (frame, count, left) => {
      for (let n = 0; n < count; n++) left[n] = frame + n >= 0 && frame + n < 4800 ? Math.sin((frame + n) / 7) : 0;
    },
  };
  const long: Song = {
    ...emptySong('Ringing'),
    tracks: [{ ...track('a', 1, []), chain: [ringing], lengthFrames: 8 * 48000 }],
  };
  const part = { startFrame: 6.5 * 48000, endFrame: 7 * 48000 };
  const heard = (range: { startFrame: number; endFrame: number }) => {
    const out = new Float64Array(part.endFrame - part.startFrame);
    for (const { left, frames, frame } of renderMix(compileSong(long), () => stroke, [], range))
      for (let n = 0; n < frames; n++) if (frame + n >= part.startFrame) out[frame + n - part.startFrame] = left[n];
    return out;
  };
  const whole = heard({ startFrame: 0, endFrame: part.endFrame });
  expect(Math.max(...whole)).toBeGreaterThan(1e-3);
  expect(apart([heard(part)], [whole])).toBeLessThan(1e-9);
});
