import { BandLevelsAnalyser, BYTE_POWERS, STEPS_PER_SECOND } from './band-levels';
import { SPECTRUM_BAND_EDGES, spectrumBandOf, SPECTRUM_BANDS } from './bands';
import { LongTermSpectrum } from './spectrum';

const sine = (hz: number, rateHz: number, seconds: number, level = 1) =>
  Float64Array.from({ length: seconds * rateHz }, (_, n) => level * Math.sin((2 * Math.PI * hz * n) / rateHz));

function noise(count: number, seed: number): Float64Array {
  let state = seed;
  return Float64Array.from({ length: count }, () => {
    state = (Math.imul(1664525, state) + 1013904223) >>> 0;
    return state / 2 ** 31 - 1;
  });
}

function analysed(channels: Float64Array[], rateHz: number): { levels: Uint8Array; longTermDb: number[] } {
  const analyser = new BandLevelsAnalyser(rateHz, channels.length);
  for (let at = 0; at < channels[0].length; at += 10007)
    analyser.push(channels.map((samples) => samples.subarray(at, at + 10007)));
  return { levels: analyser.finish(), longTermDb: analyser.longTermDb() };
}
const powerAt = (levels: Uint8Array, step: number, from = 0, to = SPECTRUM_BANDS) => {
  let sum = 0;
  for (let band = from; band < to; band++) sum += BYTE_POWERS[levels[step * SPECTRUM_BANDS + band]];
  return sum;
};

test.each([
  [25, 48000],
  [41.2, 44100],
  [63, 48000],
  [110, 96000],
  [330, 48000],
  [997, 192000],
  [9000, 48000],
])('a full-scale sine of %f Hz at %i Hz has its power in its own bands, and none an octave off', (hz, rateHz) => {
  const { levels } = analysed([sine(hz, rateHz, 4)], rateHz);
  const step = 2 * STEPS_PER_SECOND;
  const band = spectrumBandOf(hz);
  expect(10 * Math.log10(powerAt(levels, step))).toBeCloseTo(0, 0);
  expect(powerAt(levels, step, band - 1, band + 2) / powerAt(levels, step)).toBeGreaterThan(0.9);
  if (band >= 12) expect(10 * Math.log10(powerAt(levels, step, 0, band - 11))).toBeLessThan(-45);
  expect(10 * Math.log10(powerAt(levels, step, band + 12))).toBeLessThan(-45);
});

// P. Welch's estimate with a window of 1.4 s is the reference; it is checked against scipy in spectrum.test.ts.
test('the long-term level of noise is that of the long-term spectrum, in every band', () => {
  const samples = noise(48000 * 30, 7);
  for (let n = 1; n < samples.length; n++) samples[n] = 0.9 * samples[n - 1] + samples[n] * 0.1;
  const welch = new LongTermSpectrum(48000, 1);
  welch.push([samples]);
  const reference = welch.levelsDb(SPECTRUM_BAND_EDGES);
  const { longTermDb } = analysed([samples], 48000);
  longTermDb.forEach((db, band) => expect(Math.abs(db - reference[band])).toBeLessThan(0.6));
});

test('two tones a semitone apart at 40 Hz are told apart', () => {
  const { levels } = analysed([sine(41.2, 48000, 6)], 48000);
  const step = 3 * STEPS_PER_SECOND;
  const at = (hz: number) => BYTE_POWERS[levels[step * SPECTRUM_BANDS + spectrumBandOf(hz)]];
  expect(10 * Math.log10(at(41.2) / at(41.2 * 2 ** (2 / 12)))).toBeGreaterThan(20);
});

test('the channels of a stereo recording are averaged as powers; each side alone counts the same', () => {
  const tone = sine(500, 48000, 2);
  const nothing = new Float64Array(tone.length);
  const left = analysed([tone, nothing], 48000).levels;
  expect(analysed([nothing, tone], 48000).levels).toEqual(left);
  expect(10 * Math.log10(powerAt(left, 20))).toBeCloseTo(-3, 0);
});

test('a click falls into the steps about it wherever it lies, and is nowhere lost', () => {
  for (const frame of [48000, 48600, 49200, 49800]) {
    const samples = new Float64Array(96000);
    samples[frame] = 1;
    const { levels } = analysed([samples], 48000);
    let sum = 0;
    const top = spectrumBandOf(2000);
    for (let step = 0; step < 40; step++) sum += powerAt(levels, step, top);
    // The power of one sample, spread over a step and over all bands above 2 kHz.
    const expected = (2 / 2400) * ((19952 - 1995) / 24000);
    expect(Math.abs(10 * Math.log10(sum / expected))).toBeLessThan(2);
  }
});

test('silence is nothing, full-scale noise and DC are finite, nothing pushed gives no step', () => {
  expect(analysed([new Float64Array(48000)], 48000).levels.every((byte) => byte === 0)).toBe(true);
  expect(new BandLevelsAnalyser(48000, 1).finish()).toHaveLength(0);
  const loud = analysed([noise(48000, 3)], 48000).levels;
  // Even over all samples it has a third of the power of ±1, of which the bands hold what lies below 19.95 of 24 kHz.
  expect(10 * Math.log10(powerAt(loud, 10))).toBeCloseTo(10 * Math.log10((2 / 3) * (19952 / 24000)), 0);
  const constant = analysed([new Float64Array(48000).fill(1)], 48000).levels;
  expect(powerAt(constant, 10, spectrumBandOf(200))).toBeLessThan(1e-5);
});
