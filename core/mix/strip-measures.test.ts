import { SPECTRUM_BANDS } from '../measure';
import { checkRouting, emptySong, newBus, newProcessor, newTrack, type ChainProcessor, type Song } from '../song';
import { mixTracks, tracksInto } from './gains';
import { feedingPart, measureDependsOn, measuredStrips, type StripMeasure } from './strip-measures';

const track = (id: string, outputId: string, chain: ChainProcessor[] = []) => ({
  ...newTrack({ audioId: id.repeat(64), channels: 1 as const, lengthFrames: 9 }, { id, name: id, ink: 0 }),
  outputId,
  chain,
});
const bus = (id: string, outputId: string, chain: ChainProcessor[] = []) => ({
  ...newBus({ id, name: id, ink: 0 }),
  outputId,
  chain,
});
const ducker = { ...newProcessor('ducker', 'd'), key: { stripId: 'c', lowHz: null, highHz: null } } as ChainProcessor;
/** Two tracks into a group within a group, whose outer one listens to a third track. */
const song: Song = {
  ...emptySong('Measured'),
  tracks: [
    track('a', 'inner', [newProcessor('compressor', 'p')]),
    track('b', 'inner'),
    track('c', 'master'),
    track('e', 'outer'),
  ],
  buses: [bus('outer', 'master', [ducker]), bus('inner', 'outer')],
};
const flat = (db: number) => new Float64Array(SPECTRUM_BANDS).fill(db);
const measure = (changes: Partial<StripMeasure>): StripMeasure => ({
  of: [],
  beyondDb: flat(0),
  addedDb: null,
  levelsId: null,
  isCurrent: true,
  ...changes,
});
const range = { from: 0, to: 20 };

test('a part of a song that is asked about holds nothing that listens to what is not in it', () => {
  const part = feedingPart(song, ['a']);
  expect(part.tracks.map(({ id }) => id)).toEqual(['a']);
  expect(part.tracks[0]).toBe(song.tracks[0]);
  expect(() => checkRouting(part)).not.toThrow();
  // The key comes along where it is heard.
  expect(feedingPart(song, ['outer']).tracks.map(({ id }) => id)).toEqual(['a', 'b', 'c', 'e']);
  expect(feedingPart(song, ['outer']).buses[0].chain).toEqual([ducker]);
});

test('each strip is measured after what feeds it, and again when any of that changes', () => {
  expect(measuredStrips(song).map(({ id }) => id)).toEqual(['a', 'inner', 'outer']);
  const before = measureDependsOn(song, 'outer', range);
  const louder = { ...song, tracks: song.tracks.map((track) => (track.id === 'b' ? { ...track, gainDb: -3 } : track)) };
  expect(measureDependsOn(louder, 'outer', range)).not.toEqual(before);
  expect(measureDependsOn(louder, 'a', range)).toEqual(measureDependsOn(song, 'a', range));
  expect(measureDependsOn(song, 'a', { from: 0, to: 40 })).not.toEqual(measureDependsOn(song, 'a', range));
});

test('what was measured of a track stands in for its recording; what has changed since moves it by the mean', () => {
  const measures = new Map([['a', measure({ beyondDb: flat(-6), levelsId: 'a measured' })]]);
  const [current] = mixTracks(song, { measures });
  const [plain] = mixTracks(song);
  expect(current.audioId).toBe('a measured');
  expect(current.gains[60]).toBeCloseTo(plain.gains[60], 9);
  const stale = new Map([['a', measure({ beyondDb: flat(-6), levelsId: 'a measured', isCurrent: false })]]);
  const [moved] = mixTracks(song, { measures: stale });
  expect(moved.audioId).toBe(song.tracks[0].audioId);
  expect(moved.gains[60] / plain.gains[60]).toBeCloseTo(10 ** -0.6, 9);
});

test('a sum within a sum counts once, and solos do not change what runs into a bus', () => {
  const measures = new Map([['inner', measure({ addedDb: flat(3) })]]);
  const into = (of: Song, id: string) => tracksInto(of, id, measures).map(({ gains }) => gains[60]);
  expect(into(song, 'inner')).toEqual([1, 1, 0, 0]);
  const [a, , , e] = into(song, 'outer');
  expect(a).toBeCloseTo(10 ** 0.3, 9);
  expect(e).toBe(1);
  const soloed = { ...song, tracks: song.tracks.map((track) => ({ ...track, soloed: track.id === 'c' })) };
  expect(into(soloed, 'inner')).toEqual([1, 1, 0, 0]);
  // At the ears nothing is added: what overlaps is each track by itself.
  expect(mixTracks(song, { measures })[1].gains[60]).toBeCloseTo(mixTracks(song)[1].gains[60], 9);
});
