import { SPECTRUM_CENTERS_HZ } from '@/core/measure';
import type { FrequencyScale } from '../../kit/axis/scale';
import type { RidgeShape } from '../../kit/axis/levels';

/** Share of the bench's height that the spectra take at most. */
const SPECTRA_SHARE = 0.45;
const OCTAVES_ABOVE_1K = SPECTRUM_CENTERS_HZ.map((hz) => Math.log2(hz / 1000));

/** Where the spectra stand in a bench of a height. */
export const spectraShape = (scale: FrequencyScale, topDb: number, height: number): RidgeShape => ({
  scale,
  topDb,
  footY: height,
  topY: height * (1 - SPECTRA_SHARE),
});

/** A spectrum tilted about 1 kHz, dB per octave. */
export const tiltedBy = (tiltDb: number, levelsDb: ArrayLike<number>): ArrayLike<number> =>
  tiltDb === 0 ? levelsDb : Float64Array.from(levelsDb, (db, i) => db + tiltDb * OCTAVES_ABOVE_1K[i]);
