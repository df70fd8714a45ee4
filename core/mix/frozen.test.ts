import fc from 'fast-check';
import type { CompiledTrack, SampleSource } from '../engine';
import { anySong, apartDb, channelsOf, LENGTH, offline, processor, track } from '../engine/testing/any-song';
import {
  applyEdit,
  channelsOut,
  emptySong,
  songLengthFrames,
  type Chain,
  type FigureRef,
  type Passage,
  type Song,
} from '../song';
import { frozenDependsOn, frozenPart, frozenSong, withFrozen, type FrozenRender } from './frozen';

const held = (sides: readonly Float64Array[], channels: 1 | 2): SampleSource => ({
  channels,
  read: (frame, count, left, right) => {
    for (let n = 0; n < count; n++) {
      left[n] = sides[0][frame + n] ?? 0;
      if (channels === 2) right[n] = sides[1][frame + n] ?? 0;
    }
  },
});

/** A song with some of its tracks frozen, as it sounds. */
function withTracksFrozen(song: Song, trackIds: readonly string[]): Float64Array[] {
  const renders = new Map<string, FrozenRender>();
  const sounds = new Map<string, SampleSource>();
  for (const trackId of trackIds) {
    const channels = channelsOut(song.tracks.find(({ id }) => id === trackId)!);
    const sides = offline(frozenSong(frozenPart(song, trackId), trackId));
    renders.set(trackId, { audioId: `frozen ${trackId}`, channels, lengthFrames: songLengthFrames(song) });
    sounds.set(`frozen ${trackId}`, held(sides, channels));
  }
  return offline(withFrozen(song, renders), (plan: CompiledTrack) => sounds.get(plan.audioId) ?? channelsOf(plan));
}

const passage = (figures: readonly (readonly [Partial<FigureRef>, number | boolean])[]): Passage => ({
  id: 'p',
  name: 'Bridge',
  startSeconds: 0.1,
  endSeconds: 0.3,
  fadeInSeconds: 0.02,
  fadeOutSeconds: 0.02,
  enabled: true,
  changes: figures.map(([figure, value]) => ({
    figure: { stripId: 'a', of: 'strip', partId: '', field: 'gainDb', ...figure } as FigureRef,
    value,
    points: [],
  })),
});

/** The lines of a reverb move, and where they are in a frame depends on how late it runs. */
function withoutReverbs(song: Song): Song {
  const still = <T extends { chain: Chain }>(strip: T): T => ({
    ...strip,
    chain: strip.chain.filter(({ kind }) => kind !== 'reverb'),
  });
  return { ...song, tracks: song.tracks.map(still), buses: song.buses.map(still), master: still(song.master) };
}

test('any song sounds the same with tracks frozen: chains of any kind, keys, sends, delays (seed 5)', () => {
  fc.assert(
    fc.property(anySong.map(withoutReverbs), fc.subarray(['a', 'b', 'c', 'd'], { minLength: 1 }), (song, frozen) => {
      expect(apartDb(withTracksFrozen(song, frozen), offline(song))).toBeLessThan(-120);
    }),
    { seed: 5, numRuns: 12 },
  );
});

const compressed = processor('compressor', { thresholdDb: -30 });
const song: Song = {
  ...emptySong('Frozen'),
  tracks: [
    { ...track('a', 2, [compressed]), gainDb: -4, pan: 0.5, polarityInverted: true, sideDb: -6, delayMs: 3.3 },
    { ...track('b', 1, [processor('ducker', { key: { stripId: 'a', lowHz: null, highHz: null } })]), muted: false },
  ],
};

test('what a passage changes inside of a chain is frozen with it, and what it changes behind it is not', () => {
  const passages = [
    passage([
      [{}, -20],
      [{ field: 'sideDb' }, 3],
      [{ field: 'muted', stripId: 'b' }, true],
      [{ of: 'processor', partId: compressed.id, field: 'thresholdDb' }, -60],
    ]),
  ];
  const changing = { ...song, passages };
  const sound = offline(changing);
  expect(apartDb(sound, offline(song))).toBeGreaterThan(-40);
  expect(apartDb(withTracksFrozen(changing, ['a', 'b']), sound)).toBeLessThan(-120);
});

test('a render is true until something of the chain changes, or of what it listens to', () => {
  const isSame = (changed: Song, trackId: string) => {
    const [before, after] = [song, changed].map((tune) => frozenDependsOn(tune, trackId));
    return before.length === after.length && before.every((part, i) => part === after[i]);
  };
  const set = (stripId: string, changes: object) =>
    applyEdit(song, { kind: 'strip.set', stripId, changes } as Parameters<typeof applyEdit>[1]);
  const quieter = set('a', { gainDb: -20, muted: true, pan: -1 });
  expect(isSame(quieter, 'a')).toBe(true);
  expect(isSame(set('a', { sideDb: 0 }), 'a')).toBe(false);
  expect(isSame(set('a', { delayMs: 0 }), 'a')).toBe(false);
  const longer = { ...song, tracks: [...song.tracks, { ...track('c', 1), lengthFrames: 2 * LENGTH }] };
  expect(isSame(longer, 'a')).toBe(false);
  const threshold = { kind: 'processor.set', processorKind: 'compressor', stripId: 'a', processorId: compressed.id };
  const harder = applyEdit(song, { ...threshold, changes: { thresholdDb: -50 } } as Parameters<typeof applyEdit>[1]);
  expect([isSame(harder, 'a'), isSame(harder, 'b')]).toEqual([false, false]);
  expect(isSame({ ...song, passages: [passage([[{}, -20]])] }, 'a')).toBe(true);
  expect(isSame({ ...song, passages: [passage([[{ field: 'midDb' }, -20]])] }, 'a')).toBe(false);
});

test('strips and passages that are frozen stay the same objects from one edit to the next', () => {
  const renders = new Map([['a', { audioId: 'r', channels: 2 as const, lengthFrames: LENGTH }]]);
  const changing = { ...song, passages: [passage([[{ field: 'midDb' }, -20]])] };
  const [first, second] = [changing, { ...changing, title: 'Renamed' }].map((state) => withFrozen(state, renders));
  expect(first.tracks[0]).toBe(second.tracks[0]);
  expect(first.passages[0]).toBe(second.passages[0]);
  expect(first.passages[0].changes).toEqual([]);
  expect(withFrozen(song, new Map([['gone', { audioId: 'r', channels: 1, lengthFrames: 1 }]]))).toBe(song);
});
