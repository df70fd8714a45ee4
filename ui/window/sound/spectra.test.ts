import { designEqualizer, magnitudeDb } from '@/core/filters';
import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '@/core/measure';
import { emptyEqualizer, emptySong, newBandSettings, newBus, newTrack, type Song, type Track } from '@/core/song';
import { mixSpectrum, stripSpectrum } from './spectra';

const audioId = (letter: string) => letter.repeat(64);
const flat = (levelDb: number) => ({
  spectrumDb: new Array<number>(SPECTRUM_BANDS).fill(levelDb),
  version: 2,
  samplePeakDb: 0,
  truePeakDb: 0,
  integratedLufs: -20,
  loudnessRangeLu: 0,
  rmsDb: 0,
  peaks: [],
});
const analyses = { [audioId('a')]: flat(-40), [audioId('b')]: flat(-40) };
const track = (letter: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: audioId(letter), channels: 1, lengthFrames: 10 }, { id: letter, name: letter, ink: 0 }),
  ...changes,
});
const song = (changes: Partial<Song>): Song => ({ ...emptySong('Test'), ...changes });
const highPass = { ...emptyEqualizer('e'), bands: [{ ...newBandSettings('high-pass', 200), id: 'p', letter: 'A' }] };

test('after an equalizer the spectrum is the one before it plus the response of what runs', () => {
  const one = track('a', { chain: [highPass], gainDb: -6 });
  const { beforeDb, afterDb } = stripSpectrum(song({ tracks: [one] }), one, analyses);
  const sections = designEqualizer(highPass, 48000);
  SPECTRUM_CENTERS_HZ.forEach((hz, i) => {
    expect(beforeDb[i]).toBeCloseTo(-46, 9);
    expect(afterDb[i]).toBeCloseTo(-46 + magnitudeDb(sections, hz, 48000), 9);
  });
});

test('a track whose recording is not measured yet has no spectrum', () => {
  const one = track('c');
  expect(stripSpectrum(song({ tracks: [one] }), one, analyses).afterDb[50]).toBeLessThan(-140);
});

test('the mix adds powers: two alike are 3 dB more; what is not heard adds nothing', () => {
  const level = (tracks: Track[], rest: Partial<Song> = {}) =>
    mixSpectrum(song({ tracks, ...rest }), analyses).afterDb[60];
  expect(level([track('a'), track('b')])).toBeCloseTo(-36.99, 2);
  expect(level([track('a'), track('b', { muted: true })])).toBeCloseTo(-40, 6);
  expect(level([track('a', { soloed: true }), track('b', { gainDb: 12 })])).toBeCloseTo(-40, 6);
  expect(level([])).toBeLessThan(-140);
});

test('buses and the master take part, with their levels and their chains', () => {
  const bus = { ...newBus({ id: 'x', name: 'x', ink: 0 }), gainDb: -3, chain: [{ ...highPass, id: 'x-e' }] };
  const master = { ...emptySong('x').master, gainDb: 2 };
  const one = song({ tracks: [track('a', { outputId: 'x' })], buses: [bus], master });
  const { beforeDb, afterDb } = mixSpectrum(one, analyses);
  expect(beforeDb[60]).toBeCloseTo(-41, 6);
  expect(afterDb[0]).toBeLessThan(beforeDb[0] - 30);
  expect(stripSpectrum(one, bus, analyses).afterDb[0]).toBeCloseTo(afterDb[0], 6);
  const silent = song({ ...one, buses: [{ ...bus, muted: true }] });
  expect(mixSpectrum(silent, analyses).afterDb[60]).toBeLessThan(-140);
});

test('what did not change is not computed again', () => {
  const one = song({ tracks: [track('a')] });
  expect(mixSpectrum(one, analyses)).toBe(mixSpectrum(one, analyses));
  expect(stripSpectrum(one, one.tracks[0], analyses)).toBe(stripSpectrum(one, one.tracks[0], analyses));
});
