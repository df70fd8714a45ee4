import { BAND_DEFAULTS, type BandSettings } from '../song';
import { designEqualizer, impulseFrames, impulseResponse, magnitudeDb } from '.';

const RATE = 48000;
const band = (changes: Partial<BandSettings>): BandSettings => ({
  ...BAND_DEFAULTS,
  type: 'bell',
  frequencyHz: 1000,
  ...changes,
});
const bands = [
  band({ type: 'high-pass', frequencyHz: 40, order: 3 }),
  band({ frequencyHz: 300, gainDb: 9, q: 12 }),
  band({ type: 'high-shelf', frequencyHz: 8000, gainDb: -6 }),
];

/** Level of samples at a frequency by the Fourier sum, dB. */
function levelDb(samples: Float64Array, hz: number): number {
  let [re, im] = [0, 0];
  samples.forEach((value, n) => {
    re += value * Math.cos((2 * Math.PI * hz * n) / RATE);
    im -= value * Math.sin((2 * Math.PI * hz * n) / RATE);
  });
  return 10 * Math.log10(re * re + im * im);
}

test.each(['minimum', 'linear'] as const)('the response of %s phase has the levels of the curve', (phase) => {
  const equalizer = { phase, outputGainDb: -2, bands };
  const samples = impulseResponse(equalizer, RATE, impulseFrames(equalizer, RATE));
  const sections = designEqualizer(equalizer, RATE);
  for (const hz of [50, 300, 1000, 12000])
    expect(levelDb(samples, hz)).toBeCloseTo(magnitudeDb(sections, hz, RATE), phase === 'minimum' ? 3 : 1);
});

test('it is as long as what rings longest, between a tenth of a second and ten', () => {
  const seconds = (...of: BandSettings[]) =>
    impulseFrames({ phase: 'minimum', outputGainDb: 0, bands: of }, RATE) / RATE;
  expect(seconds()).toBe(0.1);
  // A resonance of quality Q falls by 60 dB in Q·ln(1000)/(π f) seconds.
  const ringing = (2 * 20 * Math.log(1000)) / (Math.PI * 100);
  expect(seconds(band({ type: 'notch', frequencyHz: 100, q: 20 })) / ringing).toBeCloseTo(1, 1);
  expect(seconds(band({ type: 'notch', frequencyHz: 20, q: 40 }))).toBeLessThanOrEqual(10);
  const notch = {
    phase: 'minimum' as const,
    outputGainDb: 0,
    bands: [band({ type: 'notch', frequencyHz: 100, q: 20 })],
  };
  const end = impulseResponse(notch, RATE, impulseFrames(notch, RATE)).slice(-2000);
  expect(Math.max(...end.map(Math.abs))).toBeLessThan(1e-5);
});

test('of linear phase it is symmetrical about its middle, and too little room is refused', () => {
  const equalizer = { phase: 'linear' as const, outputGainDb: 0, bands };
  const frames = 2 * impulseFrames(equalizer, RATE);
  const samples = impulseResponse(equalizer, RATE, frames);
  const middle = samples.indexOf(Math.max(...samples));
  for (const n of [1, 10, 500]) expect(samples[middle - n]).toBeCloseTo(samples[middle + n], 9);
  expect(() => impulseResponse(equalizer, RATE, 100)).toThrow('needs at least');
});
