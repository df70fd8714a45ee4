import { seededRandom } from '../../formats';
import { plainPredictor } from '../../suspects/clicks';
import { plainLayer } from '../../suspects/resonance/net';
import { plainPairHalver } from '../band-levels';
import { LevelMeter, plainLevelAdder } from '../levels';
import { plainExtremesFinder } from '../peaks';
import { plainPeakFinder, TRUE_PEAK_PHASES, TruePeakMeter } from '../true-peak';
import { measureKernel, plainPairSpectrum } from './kernel';

const random = seededRandom(11);
const noise = (length: number) => Float64Array.from({ length }, () => 2 * random() - 1);

test('this thread runs the compiled kernel', () => expect(measureKernel()).not.toBeNull());

test.each([4, 8, 64, 2048, 4096, 8192, 16384, 32768, 65536, 131072])(
  'its spectrum of %d is that of the package fft.js',
  (size) => {
    const window = noise(size);
    const samples = noise(2 * size);
    const [plain, own] = [plainPairSpectrum(window), measureKernel()!.pairSpectrum(window)].map((spectrum) => {
      spectrum.loadPairs(samples);
      return spectrum.run(0, size / 2 + 1, 2);
    });
    const most = plain.reduce((high, power) => Math.max(high, power), 0);
    const apart = plain.reduce((high, power, k) => Math.max(high, Math.abs(own[k] - power)), 0);
    expect(apart).toBeLessThan(1e-12 * most);
  },
);

test.each([8, 4096, 16384, 131072])('its cross-spectrum of %d is that of the package fft.js', (size) => {
  const window = noise(size);
  const samples = noise(2 * size);
  const [plain, own] = [plainPairSpectrum(window), measureKernel()!.pairSpectrum(window)].map((spectrum) => {
    spectrum.loadPairs(samples);
    return spectrum.cross();
  });
  const most = [...plain[0], ...plain[1]].reduce((high, power) => Math.max(high, power), 0);
  plain.forEach((bins, i) => {
    expect(own[i]).toHaveLength(size / 2 + 1);
    const apart = bins.reduce((high, power, k) => Math.max(high, Math.abs(own[i][k] - power)), 0);
    expect(apart).toBeLessThan(1e-12 * most);
  });
});

test.each([4, 64, 4096, 131072])(
  'the powers of two windows of %d that begin before a signal, or end beyond it, are those of the plain one',
  (size) => {
    const window = noise(size);
    const [first, second] = [Float32Array.from(noise(size)), Array.from(noise(2 * size))];
    const places = [
      [0, size],
      [-size / 4, 3],
      [size / 2, 2 * size - 1],
      [2 * size, -2 * size],
    ];
    const beyond = size / 4 + 1;
    for (const [firstAt, secondAt] of places) {
      const [plain, own] = [plainPairSpectrum(window), measureKernel()!.pairSpectrum(window)].map((spectrum) => {
        spectrum.load(first, firstAt, second, secondAt);
        return spectrum.powers(beyond, 3);
      });
      // What one signal leaves in the powers of the other by rounding is of its own size.
      const most = [...plain[0], ...plain[1]].reduce((high, power) => Math.max(high, power), 0);
      plain.forEach((bins, i) => {
        expect(own[i]).toHaveLength(beyond);
        const apart = bins.reduce((high, power, k) => Math.max(high, Math.abs(own[i][k] - power)), 0);
        expect(apart).toBeLessThanOrEqual(1e-12 * most);
      });
    }
  },
);

test('a sine of a bin has its power there, of both signals; one after the other, two sizes do not get into each other’s way', () => {
  const flat = (size: number) => new Float64Array(size).fill(1);
  const [small, large] = [measureKernel()!.pairSpectrum(flat(64)), measureKernel()!.pairSpectrum(flat(256))];
  for (const [spectrum, size] of [
    [small, 64],
    [large, 256],
    [small, 64],
  ] as const) {
    const tone = (bin: number) =>
      Float64Array.from({ length: size }, (_, n) => Math.cos((2 * Math.PI * bin * n) / size));
    spectrum.load(
      tone(5),
      0,
      tone(9).map((value) => value / 2),
      0,
    );
    const power = spectrum.run(0, size / 2, 4 / size ** 2);
    expect(power[5]).toBeCloseTo(1, 12);
    expect(power[9]).toBeCloseTo(0.25, 12);
    expect(power[7]).toBeCloseTo(0, 12);
  }
});

test.each([
  ['bass', [41, 82.5]],
  ['a chord', [220, 277.2, 329.6, 440]],
  ['bass under a whistle', [55, 9000]],
  ['a sine just below half the rate', [23_500]],
  ['bursts', [100, 12_000]],
])('its true peak of %s is the plain one’s to the last bit, though most is left out', (name, frequencies) => {
  const samples = Float64Array.from({ length: 60_000 }, (_, n) => {
    const swell = name === 'bursts' ? Math.max(0, Math.sin(n / 3000)) ** 9 : 0.3 + (0.7 * n) / 60_000;
    return swell * frequencies.reduce((sum, hz, i) => sum + Math.sin((2 * Math.PI * hz * n) / 48000 + i), 0);
  });
  const meters = [new TruePeakMeter(1), new TruePeakMeter(1, plainPeakFinder())];
  for (const meter of meters) meter.push([samples]);
  expect(meters[0].finish()).toBe(meters[1].finish());
});

test('it halves pairs, and finds extremes, as the plain ones do to the last bit', () => {
  const [own, plain] = [measureKernel()!.pairHalver(), plainPairHalver()];
  const finders = [measureKernel()!.extremesFinder(), plainExtremesFinder()];
  for (const filled of [4, 5, 6, 777, 4100]) {
    const pairs = noise(2 * filled);
    for (const halver of [own, plain]) halver.line.set(pairs);
    const made = own.run(filled);
    expect(made).toBe(plain.run(filled));
    expect(own.made.slice(0, 2 * made)).toEqual(plain.made.slice(0, 2 * made));
    const count = Math.min(filled, 4096);
    const [found, expected] = finders.map(({ held, find }) => {
      const extremes = Float64Array.of(0.1, -0.1);
      held.set(pairs.subarray(0, count));
      find(count, extremes);
      return extremes;
    });
    expect(found).toEqual(expected);
    expect(found[1]).toBe(Math.max(-0.1, ...pairs.subarray(0, count)));
  }
});

test('its levels and K-weighted powers are the plain ones to the last bit, of one channel and of two, in pieces of any length', () => {
  for (const channels of [1, 2])
    for (const rateHz of [44100, 48000]) {
      const samples = Array.from({ length: channels }, (_, c) =>
        noise(30_000).map((value, n) => (n > 15_000 && n < 25_000 ? 0 : value * (1 - 0.4 * c))),
      );
      const meters = [new LevelMeter(rateHz), new LevelMeter(rateHz, plainLevelAdder(rateHz))];
      for (let at = 0, run = 1; at < 30_000; at += run, run = 1 + Math.floor(random() * 9000))
        for (const meter of meters) meter.push(samples.map((channel) => channel.subarray(at, at + run)));
      const [compiled, plain] = meters.map((meter) => ({
        powers: meter.powers,
        peak: meter.samplePeakDb,
        rms: meter.rmsDb,
        correlation: meter.correlation,
      }));
      expect(compiled).toEqual(plain);
      expect(compiled.powers.some((power) => power > 0.1)).toBe(true);
      if (channels === 1) expect(compiled.correlation).toBeNull();
      else expect(Math.abs(compiled.correlation!)).toBeLessThan(0.1);
    }
});

test('soft samples whose signs add up between them are not passed over after a louder one, wherever they lie', () => {
  const [, middle] = TRUE_PEAK_PHASES;
  for (const at of [200, 255, 256, 257, 300, 383, 384, 470]) {
    const samples = new Float64Array(600);
    samples[20] = 1;
    // As large between two of them as the taps can make it: 2.249 times their size.
    middle.forEach((tap, n) => (samples[at + n] = 0.46 * Math.sign(tap)));
    const [own, plain] = [new TruePeakMeter(1), new TruePeakMeter(1, plainPeakFinder())].map((meter) => {
      meter.push([samples]);
      return meter.finish();
    });
    expect(own).toBe(plain);
    expect(own).toBeCloseTo(20 * Math.log10(0.46 * middle.reduce((sum, tap) => sum + Math.abs(tap), 0)), 9);
    expect(own).toBeGreaterThan(0.2);
  }
});

test('its true peak is the plain one’s to the last bit, in pieces of any length', () => {
  for (const [shape, length] of [
    [1, 50_000],
    [0.02, 9_001],
    [0, 300],
  ]) {
    const samples = noise(length).map((value, n) => value * shape * (n > length / 2 ? 1 : 0.3));
    const meters = [new TruePeakMeter(1), new TruePeakMeter(1, plainPeakFinder())];
    for (let at = 0, run = 1; at < length; at += run, run = 1 + Math.floor(random() * 7000))
      for (const meter of meters) meter.push([samples.subarray(at, at + run)]);
    expect(meters[0].finish()).toBe(meters[1].finish());
  }
});

test.each([4, 24, 96])('its layer of %i cells is the plain one’s to the last bit', (cells) => {
  const floats = (length: number) => Float32Array.from(noise(length));
  const [weights, biases, inputs] = [floats(65 * cells), floats(cells), floats(65)];
  expect(measureKernel()!.layer(weights, biases)(inputs)).toEqual(plainLayer(weights, biases)(inputs));
});

test('its decibels are those of Math.log10, from silence up', () => {
  const powers = noise(1001).map((value, n) => (n < 2 ? n : 10 ** (25 * value)));
  const levels = measureKernel()!.decibels(2048, 1e-16)(powers, 1001);
  powers.forEach((power, n) => expect(Math.abs(levels[n] - 10 * Math.log10(power + 1e-16))).toBeLessThan(1e-9));
});

test('its predictor is the plain one, to the last bit', () => {
  const [samples, window] = [noise(256), noise(256)];
  const factors = noise(25);
  const [own, plain] = [measureKernel()!.predictor(window, 24), plainPredictor(window, 24)].map((predictor) => {
    predictor.samples.set(samples);
    return { sums: [...predictor.autocorrelation()], left: [...predictor.residual(factors)] };
  });
  expect(own).toEqual(plain);
  expect(own.sums).toHaveLength(25);
  expect(own.left.slice(0, 24)).toEqual(new Array(24).fill(0));
});
