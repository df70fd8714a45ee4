import { designEqualizer, designLinearPhase, evenResponseDb, logSpacedHz, magnitudeDb } from '../filters';
import { seededRandom } from '../formats';
import { newBandSettings, type BandChannel, type BandSettings } from '../song';
import { Convolver, delayKernel, toKernel, type ConvolutionKernel } from './convolver';

const RATE = 48000;
const band = (type: BandSettings['type'], frequencyHz: number, rest: Partial<BandSettings> = {}): BandSettings => ({
  ...newBandSettings(type, frequencyHz),
  ...rest,
});
const design = (bands: BandSettings[], channels: 1 | 2 = 1) =>
  designLinearPhase({ bands, outputGainDb: 0 }, RATE, channels);

/** What a convolver makes of one sample in the middle of nothing. */
function impulse(kernel: ConvolutionKernel, [l, r]: [number, number], offset = 0): [Float64Array, Float64Array] {
  const length = 2 * kernel.latencyFrames;
  const [left, right] = [new Float64Array(length), new Float64Array(length)];
  left[0] = l;
  right[0] = r;
  new Convolver(kernel, offset).process(left, right, length);
  return [left, right];
}

test.each([
  ['bells and a high-pass', [band('high-pass', 80, { order: 4 }), band('bell', 900, { gainDb: 9, q: 3 })]],
  ['an elliptic low-pass', [band('low-pass', 5000, { family: 'elliptic', order: 6 })]],
  ['a narrow boost far below', [band('bell', 40, { gainDb: 12, q: 8 })]],
])('linear phase has the magnitude of minimum phase within 0.1 dB from 20 Hz: %s', (_, bands) => {
  const { leftToLeft, worstErrorDb, taps } = design(bands);
  expect(worstErrorDb).toBeLessThan(0.06);
  const sections = designEqualizer({ bands, outputGainDb: 0 }, RATE);
  for (const hz of logSpacedHz(20, 20000, 333)) {
    const wanted = magnitudeDb(sections, hz, RATE);
    if (wanted > -50) expect(Math.abs(evenResponseDb(leftToLeft, hz, RATE) - wanted)).toBeLessThan(0.1);
  }
  for (let n = 1; n < taps / 2; n += 97) expect(leftToLeft[taps / 2 - n]).toBeCloseTo(leftToLeft[taps / 2 + n], 12);
});

test('what cannot be kept is owned up to: a notch of Q 100 at 21 Hz', () => {
  expect(design([band('bell', 21, { gainDb: 18, q: 100 })]).worstErrorDb).toBeGreaterThan(0.1);
});

test('a partitioned convolution is the plain one, late by its latency, however its blocks lie', () => {
  const made = design([band('bell', 700, { gainDb: 6 })]);
  const kernel = toKernel(made);
  const random = seededRandom(11);
  const input = Float64Array.from({ length: 3000 }, () => random() - 0.5);
  for (const offset of [0, 128, 384]) {
    const padded = new Float64Array(kernel.latencyFrames + 3000);
    padded.set(input);
    const convolver = new Convolver(kernel, offset);
    for (let at = 0; at < padded.length; at += 128)
      convolver.process(padded.subarray(at, at + 128), null, Math.min(128, padded.length - at));
    for (const n of [0, 777, 2500]) {
      let sum = 0;
      for (let k = 0; k < 3000; k++) {
        const tap = n - k + made.taps / 2;
        if (tap >= 0 && tap < made.taps) sum += input[k] * made.leftToLeft[tap];
      }
      expect(padded[n + kernel.latencyFrames]).toBeCloseTo(sum, 9);
    }
  }
});

test.each(['mid', 'side', 'left', 'right'] as BandChannel[])('a band on %s acts there and nowhere else', (channel) => {
  const kernel = toKernel(design([band('bell', 1000, { gainDb: 12, channel })], 2));
  const energies = (input: [number, number]) =>
    impulse(kernel, input).map((side) => side.reduce((sum, value) => sum + value * value, 0));
  const plain = toKernel(design([], 2));
  const untouched = (input: [number, number]) =>
    impulse(plain, input).map((side) => side.reduce((sum, value) => sum + value * value, 0));
  const signals: Record<string, [number, number]> = { mid: [1, 1], side: [1, -1], left: [1, 0], right: [0, 1] };
  const partner = { mid: 'side', side: 'mid', left: 'right', right: 'left' }[channel as 'mid'];
  energies(signals[partner]).forEach((value, i) => expect(value).toBeCloseTo(untouched(signals[partner])[i], 9));
  const total = (values: number[]) => values[0] + values[1];
  expect(total(energies(signals[channel]))).toBeGreaterThan(1.05 * total(untouched(signals[channel])));
});

test('a change of the kernel makes no step, and a kernel that only delays gives back what came in', () => {
  const kernel = toKernel(design([band('bell', 300, { gainDb: 12 })]));
  const quiet = delayKernel(kernel);
  const convolver = new Convolver(quiet);
  const length = kernel.latencyFrames + 30000;
  const signal = Float64Array.from({ length }, (_, n) => 0.25 * Math.sin((2 * Math.PI * 300 * n) / RATE));
  const heard = signal.slice();
  convolver.process(heard.subarray(0, 20000), null, 20000);
  convolver.setKernel(kernel);
  convolver.process(heard.subarray(20000), null, length - 20000);
  expect(heard[kernel.latencyFrames + 50]).toBeCloseTo(signal[50], 9);
  const last = heard.slice(-2000);
  expect(Math.max(...last)).toBeCloseTo(0.25 * 10 ** (12 / 20), 2);
  // A sine of 300 Hz at its loudest bends by ω²·A from sample to sample; a step would bend it far more.
  const most = ((2 * Math.PI * 300) / RATE) ** 2 * 0.25 * 10 ** (12 / 20);
  for (let n = kernel.latencyFrames + 2; n < length; n++)
    if (Math.abs(heard[n] - 2 * heard[n - 1] + heard[n - 2]) > 1.3 * most) throw new Error(`a step at ${n}`);
});
