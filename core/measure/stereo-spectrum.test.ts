import { seededRandom } from '../formats';
import { StereoSpectrum, type StereoBand } from './stereo-spectrum';

const RATE = 48000;
const LENGTH = 4 * RATE;
const noise = (seed: number) => {
  const random = seededRandom(seed);
  return Float64Array.from({ length: LENGTH }, () => random() - 0.5);
};
function measured(left: Float64Array, right: Float64Array, piece = LENGTH): StereoBand[] {
  const spectrum = new StereoSpectrum(RATE);
  for (let at = 0; at < left.length; at += piece)
    spectrum.push([left.subarray(at, at + piece), right.subarray(at, at + piece)]);
  return spectrum.finish();
}
const [a, b] = [noise(1), noise(2)];

test('the same on both sides is all middle, what is turned all sides, what is unrelated half of each', () => {
  for (const { correlation, sideShare } of measured(a, a)) {
    expect(correlation).toBeCloseTo(1, 9);
    expect(sideShare).toBeCloseTo(0, 9);
  }
  for (const { correlation, sideShare } of measured(
    a,
    a.map((value) => -0.5 * value),
  )) {
    expect(correlation).toBeCloseTo(-1, 9);
    // (1 + 0.5)² beside (1 − 0.5)².
    expect(sideShare).toBeCloseTo(0.9, 9);
  }
  for (const { hz, correlation, sideShare } of measured(a, b, 1000)) {
    if (hz < 200) continue;
    expect(Math.abs(correlation!)).toBeLessThan(0.2);
    expect(Math.abs(sideShare! - 0.5)).toBeLessThan(0.1);
  }
});

test('each range is told by itself; silence on a side, and everywhere', () => {
  const tone = (hz: number) => Float64Array.from({ length: LENGTH }, (_, n) => Math.sin((2 * Math.PI * hz * n) / RATE));
  const [low, high] = [tone(100), tone(4000)];
  const bands = measured(
    low.map((value, n) => value + high[n]),
    low.map((value, n) => value - high[n]),
  );
  const at = (hz: number) => bands.find((band) => Math.abs(band.hz / hz - 1) < 0.01)!;
  expect(at(100)).toMatchObject({ correlation: expect.closeTo(1, 3), sideShare: expect.closeTo(0, 3) });
  expect(at(3981)).toMatchObject({ correlation: expect.closeTo(-1, 3), sideShare: expect.closeTo(1, 3) });
  expect(measured(a, new Float64Array(LENGTH))[20]).toMatchObject({
    correlation: null,
    sideShare: expect.closeTo(0.5, 9),
  });
  const silence = new Float64Array(LENGTH);
  expect(measured(silence, silence)[20]).toMatchObject({ correlation: null, sideShare: null });
});
