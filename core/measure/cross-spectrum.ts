import { threadSpectrum } from './band-levels';

/** Powers of two signals and what they have in common, by frequency. */
export interface CrossSpectrum {
  /** Distance of the bins, Hz; bin 0 is 0 Hz. */
  binHz: number;
  first: Float64Array;
  second: Float64Array;
  /** Mean of the first's spectrum times the conjugate of the second's. */
  real: Float64Array;
  imaginary: Float64Array;
  /** Frames that were averaged. */
  frames: number;
}

/** Frames last at least so long: many times the delays that are looked for. */
const FRAME_SECONDS = 0.3;
/** Rows of the transform are fourfold. */
const FOURTH = 1 / 4;
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
  first: ArrayLike<number>,
  second: ArrayLike<number>,
  rateHz: number,
  shift = 0,
  part: 'all' | 'even' | 'odd' = 'all',
): CrossSpectrum {
  const size = crossFrameLength(rateHz);
  const spectrum = threadSpectrum(size, 'hann');
  const bins = size / 2 + 1;
  const sums = () => new Float64Array(bins);
  const found = { first: sums(), second: sums(), real: sums(), imaginary: sums() };
  const rows = [found.first, found.second, found.real, found.imaginary];
  const starts: number[] = [];
  const last = Math.max(1, first.length - size / 2);
  for (let at = 0, number = 0; at < last; at += size / 2, number++)
    if (part === 'all' || number % 4 < 2 === (part === 'even')) starts.push(at);
  const powers = starts.map((at) => meanPower(first, at, size) * meanPower(second, at + shift, size));
  const least = Math.max(...powers) * 10 ** (QUIET_DB / 5);
  let frames = 0;
  starts.forEach((at, i) => {
    if (!(powers[i] > 0 && powers[i] >= least)) return;
    frames++;
    spectrum.load(first, at, second, at + shift);
    const crossed = spectrum.cross();
    rows.forEach((sum, row) => {
      const bins = crossed[row];
      for (let k = 0; k < sum.length; k++) sum[k] += FOURTH * bins[k];
    });
  });
  return { binHz: rateHz / size, frames, ...found };
}

/** Mean power of a frame, which may begin before a signal or go beyond its end. */
function meanPower(samples: ArrayLike<number>, at: number, count: number): number {
  const [from, to] = [Math.max(0, at), Math.min(samples.length, at + count)];
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n] ** 2;
  return sum / count;
}
