import { seededRandom } from '../formats';
import { newBandSettings, type BandChannel, type BandSettings } from '../song';
import { Cascade } from './cascade';
import { equalizerSections } from './compile-chain';
import { FloatCascade } from './float-cascade';
import { ReferenceKernel } from './kernel/reference-kernel';
import { SimdKernel } from './kernel/simd-kernel';

const RATE = 48000;
const FRAMES = 1111;
const kernels = [SimdKernel.create()!, new ReferenceKernel()];

const bands = (channel: BandChannel): BandSettings[] => [
  { ...newBandSettings('high-pass', 90), order: 4 },
  { ...newBandSettings('bell', 900), gainDb: 7, channel },
  { ...newBandSettings('high-shelf', 5000), gainDb: -4 },
  { ...newBandSettings('bell', 2000), gainDb: -3, q: 6 },
];
const sectionsOf = (channel: BandChannel, channels: 1 | 2) =>
  equalizerSections({ bands: bands(channel), outputGainDb: -2 }, RATE, channels);

function noise(channels: 1 | 2) {
  const random = seededRandom(3);
  const floats = Float32Array.from({ length: FRAMES * channels }, () => random() - 0.5);
  const planar = [0, channels - 1].map((c) =>
    Float64Array.from({ length: FRAMES }, (_, n) => floats[n * channels + c]),
  );
  return { floats, planar };
}

test.each([
  [1, 'stereo'],
  [2, 'stereo'],
  [2, 'left'],
  [2, 'side'],
] as const)('32-bit samples go the same way as 64-bit ones: %i channel(s), a band on %s', (channels, channel) => {
  const { floats, planar } = noise(channels);
  const sections = sectionsOf(channel, channels);
  new Cascade(sections, RATE).process(planar[0], channels === 2 ? planar[1] : null, FRAMES);
  for (const kernel of kernels) {
    const samples = floats.slice();
    expect(new FloatCascade(sections, RATE, channels, kernel).process(samples)).toBe(true);
    // The factors b0 are multiplied at the end: the same but for the last bit of 32-bit samples.
    samples.forEach((sample, i) =>
      expect(Math.abs(sample - planar[i % channels][Math.floor(i / channels)])).toBeLessThan(2e-7),
    );
  }
});

test.each([NaN, Infinity, -Infinity])('what is no number is noticed: %d', (odd) => {
  for (const kernel of kernels) {
    const cascade = new FloatCascade(sectionsOf('stereo', 2), RATE, 2, kernel);
    expect(cascade.process(Float32Array.of(0, 1, odd, 0))).toBe(false);
  }
});
