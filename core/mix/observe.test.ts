import type { SampleSource } from '../engine';
import {
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  type Chain,
  type ChainProcessor,
  type Song,
} from '../song';
import { COUNTED_DB, observedTracks, observeProcessor } from './observe';

const RATE = 48000;
const LENGTH = RATE;
const track = (id: string, chain: Chain = [], outputId = 'master') => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  chain,
  outputId,
  gainDb: -20,
  pan: -0.5,
});
/** Half a second soft, half a second loud. */
const steps = (soft: number, loud: number): SampleSource => ({
  channels: 1,
  read: (frame, count, left) => {
    for (let n = 0; n < count; n++) left[n] = frame + n < LENGTH / 2 ? soft : loud;
  },
});
const range = { startFrame: 0, endFrame: LENGTH };
const db = (peak: number) => 20 * Math.log10(peak);
const limit = {
  ...newProcessor('compressor', 'limit'),
  thresholdDb: -20,
  kneeDb: 0,
  limits: true,
} as ChainProcessor;

test('levels are those at the processor, whatever its fader and position; they lie in the columns of their time', () => {
  const song: Song = { ...emptySong('Observe'), tracks: [track('a', [limit])] };
  const { before, after, key } = observeProcessor(song, 'a', 'limit', () => steps(0.01, 0.5), range, 10)!;
  expect(db(before.peaks[2])).toBeCloseTo(-40, 2);
  expect(db(after.peaks[2])).toBeCloseTo(-40, 2);
  expect(db(before.peaks[8])).toBeCloseTo(db(0.5), 2);
  expect(db(after.peaks[9])).toBeCloseTo(-20, 1);
  expect(key).toBeNull();
  expect(before.counts[Math.floor(db(0.5)) - COUNTED_DB.lowest]).toBe(LENGTH / 2);
});

test('of a group it is the sum of its tracks; a key that is another strip is looked at too; what is gone is null', () => {
  const ducker = {
    ...newProcessor('ducker', 'duck'),
    key: { stripId: 'c', lowHz: null, highHz: null },
  } as ChainProcessor;
  const song: Song = {
    ...emptySong('Observe'),
    tracks: [track('a', [], 'g'), track('b', [], 'g'), track('c')].map((band) => ({ ...band, gainDb: 0 })),
    buses: [{ ...newBus({ id: 'g', name: 'g', ink: 0 }), chain: [ducker] }],
  };
  const sourceOf = ({ id }: { id: string }) => steps(id === 'c' ? 0.2 : 0.1, id === 'c' ? 0.2 : 0.1);
  const { before, key } = observeProcessor(song, 'g', 'duck', sourceOf, range, 10)!;
  const { before: alone } = observeProcessor(
    { ...song, tracks: song.tracks.filter(({ id }) => id !== 'b') },
    'g',
    'duck',
    sourceOf,
    range,
    10,
  )!;
  expect(db(before.peaks[5] / alone.peaks[5])).toBeCloseTo(6.02, 1);
  expect(db(key!.peaks[5])).toBeCloseTo(db(0.2), 2);
  expect(observedTracks(song, 'g')).toEqual(['a', 'b', 'c']);
  expect(observeProcessor(song, 'g', 'gone', sourceOf, range, 10)).toBeNull();
});

test('what a band gives way to is needed as well', () => {
  const givesWay = {
    amountDb: -6,
    thresholdDb: -30,
    attackMs: 5,
    holdMs: 0,
    releaseMs: 50,
    key: { stripId: 'b', lowHz: null, highHz: null },
  };
  const bands = [{ ...newBandSettings('bell', 500), id: 'p', letter: 'A', givesWay }];
  const song: Song = {
    ...emptySong('Observe'),
    tracks: [track('a', [{ ...emptyEqualizer('e'), bands }, limit]), track('b'), track('c')],
  };
  expect(observedTracks(song, 'a')).toEqual(['a', 'b']);
});

// A sine that is cut hard far above its ceiling is a square wave nearly: its third harmonic has a ninth of the power of the first, −9.5 dB, and there is no second (Fourier).
test('what a clipper adds is told by octaves; of other processors nothing is', () => {
  const sine: SampleSource = {
    channels: 1,
    read: (frame, count, left) => {
      for (let n = 0; n < count; n++) left[n] = 0.5 * Math.sin((2 * Math.PI * 700 * (frame + n)) / RATE);
    },
  };
  const clipper = { ...newProcessor('clipper', 'c'), driveDb: 36, bend: 0, ceilingDb: -6 } as ChainProcessor;
  const song: Song = { ...emptySong('Observe'), tracks: [track('a', [clipper, limit])] };
  const { added } = observeProcessor(song, 'a', 'c', () => sine, range, 10)!;
  const at = (hz: number) => added!.find((octave) => octave.hz === hz)!.db;
  // The first lies in the octave of 500, the third in that of 2000; 3.5 kHz and 4.9 kHz in that of 4000.
  expect(at(500)).toBeLessThan(-45);
  expect(at(1000)).toBeLessThan(-45);
  const wholeDb = 10 * Math.log10(Math.PI ** 2 / 8);
  expect(Math.abs(at(2000) + 20 * Math.log10(3) + wholeDb)).toBeLessThan(0.7);
  expect(Math.abs(at(4000) - 10 * Math.log10(1 / 25 + 1 / 49) + wholeDb)).toBeLessThan(0.9);
  expect(observeProcessor(song, 'a', 'limit', () => sine, range, 10)!.added).toBeNull();
});
