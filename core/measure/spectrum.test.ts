import fixture from './fixtures/welch.json';
import { SPECTRUM_BAND_EDGES, spectrumBandOf, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, THIRD_OCTAVES } from './bands';
import { LiveSpectrum } from './live-spectrum';
import { FLOOR_DB, LongTermSpectrum } from './spectrum';

const RATE = 48000;
const sine = (hz: number, count: number, level = 1) =>
  Float64Array.from({ length: count }, (_, n) => level * Math.sin((2 * Math.PI * hz * n) / RATE));
const bandOf = (hz: number) => SPECTRUM_BAND_EDGES.findIndex(({ lowHz, highHz }) => hz >= lowHz && hz < highHz);

// IEC 61260-1:2014, base 10, and ISO 266.
test('third-octave bands: exact and nominal middles, edges that meet', () => {
  expect(THIRD_OCTAVES).toHaveLength(31);
  const at = (nominalHz: number) => THIRD_OCTAVES.find((band) => band.nominalHz === nominalHz)!;
  expect(at(1000).exactHz).toBeCloseTo(1000, 9);
  expect(at(31.5).exactHz).toBeCloseTo(31.623, 3);
  expect(at(16000).exactHz).toBeCloseTo(15848.9, 1);
  expect(at(1000).lowHz).toBeCloseTo(891.25, 2);
  THIRD_OCTAVES.slice(1).forEach((band, i) => expect(band.lowHz).toBeCloseTo(THIRD_OCTAVES[i].highHz, 6));
  THIRD_OCTAVES.forEach((band) => expect(Math.abs(band.nominalHz / band.exactHz - 1)).toBeLessThan(0.02));
});

// IEC 61260-1:2014, base 10: bands of 1/12 octave have their edges at 1000·G^(k/12), G = 10^0.3.
test('the axis: 120 bands of a twelfth of an octave from 19.95 Hz, four in every third of an octave', () => {
  expect(SPECTRUM_BAND_EDGES).toHaveLength(SPECTRUM_BANDS);
  expect(SPECTRUM_BAND_EDGES[0].lowHz).toBeCloseTo(19.953, 3);
  expect(SPECTRUM_BAND_EDGES[119].highHz).toBeCloseTo(19952.6, 1);
  expect(SPECTRUM_CENTERS_HZ[12] / SPECTRUM_CENTERS_HZ[0]).toBeCloseTo(10 ** 0.3, 12);
  THIRD_OCTAVES.slice(1, 30).forEach(({ lowHz, highHz }) => {
    const inside = SPECTRUM_BAND_EDGES.filter((band) => band.lowHz > lowHz * 0.999 && band.highHz < highHz * 1.001);
    expect(inside).toHaveLength(4);
  });
  SPECTRUM_CENTERS_HZ.forEach((hz, band) => expect(spectrumBandOf(hz)).toBe(band));
  expect([spectrumBandOf(1), spectrumBandOf(1e5)]).toEqual([0, 119]);
});

test('the third-octave levels equal scipy.signal.welch (fixtures/make_welch.py)', () => {
  let state = 12345;
  let last = 0;
  const samples = Float64Array.from({ length: fixture.count }, () => {
    state = Number((1103515245n * BigInt(state) + 12345n) % 2147483648n);
    last += 0.1 * (state / 1073741824 - 1 - last);
    return last;
  });
  const spectrum = new LongTermSpectrum(RATE, 1);
  for (let at = 0; at < samples.length; at += 4099) spectrum.push([samples.subarray(at, at + 4099)]);
  spectrum.levelsDb(THIRD_OCTAVES).forEach((levelDb, i) => expect(levelDb).toBeCloseTo(fixture.levelsDb[i], 4));
});

test.each([50, 440, 997, 8000])('a full-scale sine of %f Hz reads 0 dB, nearly all of it in its own bands', (hz) => {
  const spectrum = new LongTermSpectrum(RATE, 1);
  spectrum.push([sine(hz, RATE * 4)]);
  const levels = spectrum.levelsDb(SPECTRUM_BAND_EDGES);
  const total = 10 * Math.log10(levels.reduce((sum, db) => sum + 10 ** (db / 10), 0));
  expect(total).toBeCloseTo(0, 2);
  expect(levels[bandOf(hz)]).toBeGreaterThan(-3.1);
  expect(levels[bandOf(hz * 2)]).toBeLessThan(-70);
});

test('the channels of a stereo recording are averaged as powers', () => {
  const spectrum = new LongTermSpectrum(RATE, 2);
  spectrum.push([sine(1000, RATE * 2), new Float64Array(RATE * 2)]);
  expect(spectrum.levelsDb([{ lowHz: 900, highHz: 1100 }])[0]).toBeCloseTo(-3.01, 2);
});

test('a recording shorter than the window still reads about its level; silence and nothing read the floor', () => {
  const short = new LongTermSpectrum(RATE, 1);
  short.push([sine(1000, 12000)]);
  expect(short.levelsDb([{ lowHz: 500, highHz: 2000 }])[0]).toBeCloseTo(0, 0);
  expect(new LongTermSpectrum(RATE, 1).levelsDb(THIRD_OCTAVES)[5]).toBe(FLOOR_DB);
  const silent = new LongTermSpectrum(RATE, 1);
  silent.push([new Float64Array(RATE)]);
  expect(silent.levelsDb(THIRD_OCTAVES)[5]).toBe(FLOOR_DB);
});

test('the live spectrum settles at the level of a sine, whatever the place in the ring', () => {
  const ring = new Float32Array(16384);
  const live = new LiveSpectrum(RATE);
  let end = 0;
  const write = (count: number) => {
    for (let i = 0; i < count; i++, end++) ring[end & 16383] = 0.5 * Math.sin((2 * Math.PI * 1000 * end) / RATE);
  };
  write(16384);
  let levels = live.measure(ring, end);
  for (let i = 0; i < 30; i++) {
    write(801);
    levels = live.measure(ring, end);
  }
  const total = 10 * Math.log10(levels.reduce((sum, db) => sum + 10 ** (db / 10), 0));
  expect(total).toBeCloseTo(-6.02, 1);
  expect(levels[bandOf(4000)]).toBeLessThan(-75);
});
