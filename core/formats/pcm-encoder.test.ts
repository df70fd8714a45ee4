import { PcmEncoder, seededRandom } from './pcm-encoder';
import { decodeFrames } from './wav';

const COUNT = 200_000;
const LSB = 1 / 32768;

/** What 16 bits add to a signal, in steps. */
function errorOf(sample: (n: number) => number): Float64Array {
  const signal = Float64Array.from({ length: COUNT }, (_, n) => sample(n));
  const bytes = new PcmEncoder(1, '16').encode([signal], COUNT);
  return Float64Array.from(
    decodeFrames(bytes, { channels: 1, format: '16' })[0],
    (value, n) => (value - signal[n]) / LSB,
  );
}
const mean = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
const power = (values: Float64Array) => values.reduce((sum, value) => sum + value * value, 0) / values.length;

// S. Lipshitz, R. Wannamaker, J. Vanderkooy, "Quantization and Dither: A Theoretical Survey", JAES 1992: with triangular
// dither of 2 LSB peak to peak the mean of the total error is 0 and its power LSB²/4, whatever the signal is.
test.each([
  ['silence', () => 0],
  ['a third of a step', () => LSB / 3],
  ['half a step', () => 0.3 + LSB / 2],
  ['a slow ramp', (n: number) => (n / COUNT) * 4 * LSB],
  ['a sine', (n: number) => 0.5 * Math.sin(n / 7)],
] as const)('16 bit: the error of %s has mean 0 and power LSB²/4', (_, sample) => {
  const error = errorOf(sample);
  expect(Math.abs(mean(error))).toBeLessThan(0.005);
  expect(power(error)).toBeCloseTo(0.25, 2);
});

test('dither is the same in every render', () => {
  const signal = [Float64Array.from({ length: 100 }, (_, n) => Math.sin(n))];
  expect(new PcmEncoder(1, '16').encode(signal, 100)).toEqual(new PcmEncoder(1, '16').encode(signal, 100));
});

test('24 bit is rounded, 32-bit float is kept', () => {
  const signal = [Float64Array.of(0.1, -0.2, 0.3)];
  const bytes = new PcmEncoder(1, '24').encode(signal, 3);
  expect(Array.from(decodeFrames(bytes, { channels: 1, format: '24' })[0])).toEqual(
    Array.from(signal[0], (value) => Math.round(value * 2 ** 23) / 2 ** 23),
  );
  expect(Array.from(new Float32Array(new PcmEncoder(1, '32f').encode(signal, 3).buffer))).toEqual(
    Array.from(signal[0], Math.fround),
  );
});

test('what passes full scale is clipped there and counted, in integers only', () => {
  const signal = [Float64Array.of(1.5, -1.5, 0.5)];
  const integers = new PcmEncoder(1, '24');
  const bytes = integers.encode(signal, 3);
  expect(Array.from(decodeFrames(bytes, { channels: 1, format: '24' })[0])).toEqual([1 - 2 ** -23, -1, 0.5]);
  expect(integers.clippedSamples).toBe(2);
  const floats = new PcmEncoder(1, '32f');
  expect(new Float32Array(floats.encode(signal, 3).buffer)[0]).toBe(1.5);
  expect(floats.clippedSamples).toBe(0);
});

test('the random numbers are even: mean ½, variance 1/12', () => {
  const random = seededRandom(1);
  const values = Float64Array.from({ length: 100_000 }, () => random());
  expect(mean(values)).toBeCloseTo(0.5, 2);
  expect(power(values.map((value) => value - 0.5))).toBeCloseTo(1 / 12, 3);
});

test('the bytes do not depend on how the sound is cut into blocks, dither and all', () => {
  const sides = [1, 2].map((seed) => {
    const random = seededRandom(seed);
    return Float64Array.from({ length: 300 }, () => random() - 0.5);
  });
  const cut = (block: number) => {
    const encoder = new PcmEncoder(2, '16');
    const bytes: number[] = [];
    for (let at = 0; at < 300; at += block) {
      const pieces = sides.map((side) => side.subarray(at, at + block));
      bytes.push(...encoder.encode(pieces, pieces[0].length));
    }
    return bytes;
  };
  expect(cut(7)).toEqual(cut(300));
  expect(cut(128)).toEqual(cut(300));
});
