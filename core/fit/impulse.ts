import FFT from 'fft.js';
import { designEqualizer, magnitudesDb } from '../filters';
import { matchCurve, SPECTRUM_BANDS, SPECTRUM_BAND_EDGES, SPECTRUM_CENTERS_HZ, type MatchCurve } from '../measure';

/** Bands for the curve of an impulse response at most: as many as a hand can oversee. */
const MOST_BANDS = 12;
/** Where a curve is compared: beyond, most impulse responses hold nothing. */
const COMPARED_HZ = { low: 40, high: 16000 };
const LONGEST = 1 << 19;

/** Mean level of a response in each of the 120 bands of spectra, dB. */
function bandLevels(impulse: ArrayLike<number>, rateHz: number): Float64Array {
  let size = 1 << 15;
  while (size < Math.min(impulse.length, LONGEST)) size *= 2;
  const fft = new FFT(size);
  const input = Array.from({ length: size }, (_, n) => impulse[n] ?? 0);
  const out = fft.createComplexArray() as number[];
  fft.realTransform(out, input);
  const binHz = rateHz / size;
  return Float64Array.from({ length: SPECTRUM_BANDS }, (_, band) => {
    const { lowHz, highHz } = SPECTRUM_BAND_EDGES[band];
    const first = Math.max(1, Math.ceil(lowHz / binHz));
    const last = Math.min(size / 2 - 1, Math.max(first, Math.floor(highHz / binHz)));
    let power = 0;
    for (let k = first; k <= last; k++) power += out[2 * k] ** 2 + out[2 * k + 1] ** 2;
    return 10 * Math.log10(power / (last - first + 1) + 1e-30);
  });
}

/** A curve as editable bands, and how far they stray from it. */
export interface MatchedImpulse extends MatchCurve {
  /** Greatest and mean difference, dB, between {@link COMPARED_HZ}. */
  worstErrorDb: number;
  meanErrorDb: number;
}

/** Ordinary bands whose curve comes near to that of an impulse response; its phase is left aside. @param impulse one channel */
export function matchImpulse(impulse: ArrayLike<number>, rateHz: number): MatchedImpulse {
  const wanted = bandLevels(impulse, rateHz);
  const flat = new Float64Array(SPECTRUM_BANDS);
  const curve = matchCurve(flat, wanted, MOST_BANDS);
  const own = magnitudesDb(designEqualizer(curve, rateHz), SPECTRUM_CENTERS_HZ, rateHz);
  const errors = SPECTRUM_CENTERS_HZ.flatMap((hz, i) =>
    hz >= COMPARED_HZ.low && hz <= Math.min(COMPARED_HZ.high, 0.45 * rateHz) ? [Math.abs(own[i] - wanted[i])] : [],
  );
  return {
    ...curve,
    worstErrorDb: Math.max(...errors),
    meanErrorDb: errors.reduce((sum, error) => sum + error, 0) / errors.length,
  };
}
