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
  const strip = track('a', { chain: [highPass], gainDb: -6 });
  const { beforeDb, afterDb } = stripSpectrum(song({ tracks: [strip] }), strip, analyses);
  const sections = designEqualizer(highPass, 48000);
  SPECTRUM_CENTERS_HZ.forEach((hz, i) => {
    expect(beforeDb[i]).toBeCloseTo(-46, 9);
    expect(afterDb[i]).toBeCloseTo(-46 + magnitudeDb(sections, hz, 48000), 9);
  });
});

test('a track whose recording is not measured yet has no spectrum', () => {
  const strip = track('c');
  expect(stripSpectrum(song({ tracks: [strip] }), strip, analyses).afterDb[50]).toBeLessThan(-140);
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
  const tune = song({ tracks: [track('a', { outputId: 'x' })], buses: [bus], master });
  const { beforeDb, afterDb } = mixSpectrum(tune, analyses);
  expect(beforeDb[60]).toBeCloseTo(-41, 6);
  expect(afterDb[0]).toBeLessThan(beforeDb[0] - 30);
  // A bus is looked at behind its own fader.
  expect(stripSpectrum(tune, bus, analyses).afterDb[0]).toBeCloseTo(afterDb[0] - 2, 6);
  const silent = song({ ...tune, buses: [{ ...bus, muted: true }] });
  expect(mixSpectrum(silent, analyses).afterDb[60]).toBeLessThan(-140);
});

test('groups of groups and returns are the sums of what runs into them, sends after and before the fader too', () => {
  const send = (busId: string, tap: 'after-fader' | 'before-fader') => ({ busId, gainDb: -6, tap, enabled: true });
  const inner = newBus({ id: 'inner', name: 'inner', ink: 0 });
  const outer = newBus({ id: 'outer', name: 'outer', ink: 0 });
  const room = newBus({ id: 'room', name: 'room', ink: 0 });
  const tune = song({
    tracks: [
      track('a', { outputId: 'inner', gainDb: -10, sends: [send('room', 'after-fader')] }),
      track('b', { outputId: 'outer', muted: true, gainDb: -10, sends: [send('room', 'before-fader')] }),
    ],
    buses: [{ ...inner, outputId: 'outer', gainDb: 3 }, outer, room],
  });
  const level = (index: number) => stripSpectrum(tune, tune.buses[index], analyses).afterDb[60];
  expect([level(0), level(1)]).toEqual([expect.closeTo(-47, 6), expect.closeTo(-47, 6)]);
  expect(level(2)).toBeCloseTo(-56, 6);
  const heard = song({ ...tune, tracks: tune.tracks.map((track) => ({ ...track, muted: false })) });
  expect(stripSpectrum(heard, heard.buses[2], analyses).afterDb[60]).toBeCloseTo(
    10 * Math.log10(10 ** -5.6 + 10 ** -4.6),
    6,
  );
});

test('what did not change is not computed again', () => {
  const tune = song({ tracks: [track('a')] });
  expect(mixSpectrum(tune, analyses)).toBe(mixSpectrum(tune, analyses));
  expect(stripSpectrum(tune, tune.tracks[0], analyses)).toBe(stripSpectrum(tune, tune.tracks[0], analyses));
});
