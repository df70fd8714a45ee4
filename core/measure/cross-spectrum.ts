import FFT from 'fft.js';

/** Powers of two signals and what they have in common, by frequency. */
export interface CrossSpectrum {
  /** Distance of the bins, Hz; bin 0 is 0 Hz. */
  binHz: number;
  one: Float64Array;
  other: Float64Array;
  /** Mean of the first's spectrum times the conjugate of the second's. */
  real: Float64Array;
  imaginary: Float64Array;
  /** Frames that were averaged. */
  frames: number;
}

/** Frames last at least so long: many times the delays that are looked for. */
const FRAME_SECONDS = 0.3;
/** What lies so far below the loudest frame adds nothing but noise, dB. */
const QUIET_DB = -50;

/** Length of the frames, a power of two. */
export const crossFrameLength = (rateHz: number): number => 2 ** Math.ceil(Math.log2(FRAME_SECONDS * rateHz));

/**
 * The averaged cross-spectrum of two signals: Hann frames that overlap by half. Source: P. D. Welch, "The use of fast Fourier transform for
 * the estimation of power spectra", IEEE Trans. Audio Electroacoust. 15 (1967).
 * @param shift the second is read so many samples later than the first
 * @param part which of the frames are taken: all, or those with an even or an odd number
 */
export function crossSpectrum(
  one: ArrayLike<number>,
  other: ArrayLike<number>,
  rateHz: number,
  shift = 0,
  part: 'all' | 'even' | 'odd' = 'all',
): CrossSpectrum {
  const size = crossFrameLength(rateHz);
  const fft = new FFT(size);
  const window = Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / size));
  const bins = size / 2 + 1;
  const sums = () => new Float64Array(bins);
  const found = { one: sums(), other: sums(), real: sums(), imaginary: sums() };
  const frame = new Array<number>(size);
  const [a, b] = [fft.createComplexArray(), fft.createComplexArray()];
  const spectrumAt = (samples: ArrayLike<number>, at: number, out: number[]) => {
    for (let n = 0; n < size; n++) frame[n] = window[n] * (samples[at + n] ?? 0);
    fft.realTransform(out, frame);
  };
  const starts: number[] = [];
  const last = Math.max(1, one.length - size / 2);
  for (let at = 0, number = 0; at < last; at += size / 2, number++)
    if (part === 'all' || number % 4 < 2 === (part === 'even')) starts.push(at);
  const powers = starts.map((at) => meanPower(one, at, size) * meanPower(other, at + shift, size));
  const least = Math.max(...powers) * 10 ** (QUIET_DB / 5);
  let frames = 0;
  starts.forEach((at, i) => {
    if (!(powers[i] > 0 && powers[i] >= least)) return;
    frames++;
    spectrumAt(one, at, a);
    spectrumAt(other, at + shift, b);
    for (let k = 0; k < bins; k++) {
      const [ar, ai, br, bi] = [a[2 * k], a[2 * k + 1], b[2 * k], b[2 * k + 1]];
      found.one[k] += ar * ar + ai * ai;
      found.other[k] += br * br + bi * bi;
      found.real[k] += ar * br + ai * bi;
      found.imaginary[k] += ai * br - ar * bi;
    }
  });
  return { binHz: rateHz / size, frames, ...found };
}

function meanPower(samples: ArrayLike<number>, at: number, count: number): number {
  let sum = 0;
  for (let n = 0; n < count; n++) sum += (samples[at + n] ?? 0) ** 2;
  return sum / count;
}
