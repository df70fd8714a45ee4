import { Decimator } from './decimator';

const RATE = 48000;
const FACTOR = 16;
const PASS_HZ = 618;
const fewer = new Decimator(FACTOR, PASS_HZ, RATE);

/** Amplitude of a tone after it, in the middle, relative to what came in, dB. */
function gainDb(hz: number): number {
  const made = fewer.of(Float64Array.from({ length: RATE }, (_, n) => Math.sin((2 * Math.PI * hz * n) / RATE)));
  const [from, to] = [600, made.length - 600];
  let [re, im] = [0, 0];
  for (let n = from; n < to; n++) {
    const angle = (2 * Math.PI * hz * n * FACTOR) / RATE;
    re += made[n] * Math.cos(angle);
    im += made[n] * Math.sin(angle);
  }
  return 20 * Math.log10((2 * Math.hypot(re, im)) / (to - from));
}

test.each([25, 55, 110, 220, 440, 585, 615])('what is asked for passes as it is: %d Hz', (hz) =>
  expect(Math.abs(gainDb(hz))).toBeLessThan(0.001),
);

test.each([3000, 3618, 2382, 5500, 9100, 23_000])('what would fold onto that is gone: %d Hz', (hz) => {
  const made = Array.from(
    fewer.of(Float64Array.from({ length: RATE }, (_, n) => Math.sin((2 * Math.PI * hz * n) / RATE + 1))),
  ).slice(600, -600);
  expect(20 * Math.log10(Math.max(...made.map(Math.abs)))).toBeLessThan(-100);
});

test('every sample is in its place: as many as there are, the first at the first; what begins and ends has silence around it', () => {
  const tone = Float32Array.from({ length: 16_001 }, (_, n) => Math.cos((2 * Math.PI * 100 * n) / RATE));
  const made = fewer.of(tone);
  expect(made).toHaveLength(1001);
  for (let n = 50; n < 950; n++) expect(Math.abs(made[n] - tone[n * FACTOR])).toBeLessThan(1e-4);
  expect(made[0]).toBeCloseTo(0.5, 1);
  expect(new Decimator(1, 20_000, RATE).of(tone)).toBe(tone);
});
