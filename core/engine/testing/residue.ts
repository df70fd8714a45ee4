import FFT from 'fft.js';
import type { KeyedSection } from '../cascade';
import { fadingCascade } from '../chain-stages';

/**
 * Power beside a sine, dB relative to the sine: everything more than `aroundHz` away, in a 4-term Blackman–Harris window
 * whose own side lobes lie below −92 dB.
 */
export function residueDb(samples: Float64Array, rateHz: number, sineHz: number, aroundHz: number): number {
  const size = 65536;
  const fft = new FFT(size);
  const windowed = Array.from({ length: size }, (_, n) => {
    const p = (2 * Math.PI * n) / size;
    return samples[n] * (0.35875 - 0.48829 * Math.cos(p) + 0.14128 * Math.cos(2 * p) - 0.01168 * Math.cos(3 * p));
  });
  const out = fft.createComplexArray();
  fft.realTransform(out, windowed);
  let near = 0;
  let far = 0;
  for (let k = 1; k < size / 2; k++) {
    const power = out[2 * k] ** 2 + out[2 * k + 1] ** 2;
    if (Math.abs((k * rateHz) / size - sineHz) <= aroundHz) near += power;
    else far += power;
  }
  return 10 * Math.log10(far / near);
}

/** A sine through a cascade whose target changes at given samples, multiples of 128; 65536 samples, after a run-up. */
export function playedSine(
  rateHz: number,
  sineHz: number,
  changes: readonly { at: number; sections: KeyedSection[] }[],
  start: KeyedSection[],
): Float64Array {
  const warmUp = 16384;
  const cascade = fadingCascade(start, rateHz);
  const out = new Float64Array(65536);
  const block = new Float64Array(128);
  for (let frame = -warmUp; frame < out.length; frame += 128) {
    for (const change of changes) if (change.at === frame) cascade.easeTo(change.sections);
    for (let n = 0; n < 128; n++) block[n] = Math.sin((2 * Math.PI * sineHz * (frame + n)) / rateHz);
    cascade.process(block, null, 128);
    if (frame >= 0) out.set(block, frame);
  }
  return out;
}
