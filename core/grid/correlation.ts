import FFT from 'fft.js';
import { ONSET_STEP_SECONDS } from './onsets';

/** Onsets without what is always there: what stands over the mean of half a second around. */
export function sharpened(strengths: ArrayLike<number>): Float64Array {
  const around = Math.round(0.25 / ONSET_STEP_SECONDS);
  const sums = new Float64Array(strengths.length + 1);
  for (let n = 0; n < strengths.length; n++) sums[n + 1] = sums[n] + strengths[n];
  return Float64Array.from({ length: strengths.length }, (_, n) => {
    const [from, to] = [Math.max(0, n - around), Math.min(strengths.length, n + around + 1)];
    return Math.max(0, strengths[n] - (sums[to] - sums[from]) / (to - from));
  });
}

/** Players are so exact: what follows the other by a little less or more counts nearly as much. Nine steps of a Hann window. */
const SPREAD = Array.from({ length: 9 }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 1)) / 10));
const SPREAD_SUM = SPREAD.reduce((sum, value) => sum + value, 0);

export const spread = (values: ArrayLike<number>): Float64Array =>
  Float64Array.from(
    { length: values.length },
    (_, n) => SPREAD.reduce((sum, weight, i) => sum + weight * (values[n + i - 4] ?? 0), 0) / SPREAD_SUM,
  );

/** Sums of products of values with those so many steps later, for so many lags from 0; by the Fourier transform (Wiener–Khinchin). */
function laggedProducts(values: Float64Array, lags: number): Float64Array {
  const size = 2 ** Math.max(2, Math.ceil(Math.log2(values.length + lags)));
  const fft = new FFT(size);
  const input = new Float64Array(size);
  input.set(values);
  const spectrum = new Float64Array(2 * size);
  fft.realTransform(spectrum, input);
  const powers = new Float64Array(2 * size);
  for (let k = 0; k < size; k++) {
    const mirrored = Math.min(k, size - k);
    powers[2 * k] = spectrum[2 * mirrored] ** 2 + spectrum[2 * mirrored + 1] ** 2;
  }
  const products = new Float64Array(2 * size);
  fft.inverseTransform(products, powers);
  return Float64Array.from({ length: lags }, (_, lag) => products[2 * lag]);
}

/**
 * How alike a sound's onsets are to themselves so many steps later, 1 at none.
 * @param most steps
 * @param isLoop it goes on with its beginning where it ends
 */
export function autocorrelation(onsets: ArrayLike<number>, most: number, isLoop: boolean): Float64Array {
  const values = spread(onsets);
  const { length } = values;
  const mean = values.reduce((sum, value) => sum + value, 0) / Math.max(1, length);
  for (let n = 0; n < length; n++) values[n] -= mean;
  const lags = isLoop ? most : Math.max(0, Math.min(most, length - 1));
  const products = laggedProducts(values, isLoop ? length : lags);
  const correlation = Float64Array.from({ length: lags }, (_, lag) => {
    if (!isLoop) return products[lag] / (length - lag);
    const turned = lag % length;
    return (products[turned] + (turned > 0 ? products[length - turned] : 0)) / length;
  });
  const whole = correlation[0];
  return whole > 0 ? correlation.map((value) => value / whole) : correlation.fill(0);
}

/** A value between two steps; 0 beyond the last. */
export function valueBetween(values: ArrayLike<number>, place: number): number {
  const whole = Math.floor(place);
  if (whole + 1 >= values.length) return 0;
  return values[whole] + (place - whole) * (values[whole + 1] - values[whole]);
}
