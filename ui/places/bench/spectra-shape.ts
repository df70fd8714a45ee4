import type { FrequencyScale } from '../../kit/axis/scale';
import type { RidgeShape } from '../../kit/axis/levels';

/** Share of the bench's height that the spectra take at most. */
const SPECTRA_SHARE = 0.45;

/** Where the spectra stand in a bench of a height. */
export const spectraShape = (scale: FrequencyScale, topDb: number, height: number): RidgeShape => ({
  scale,
  topDb,
  footY: height,
  topY: height * (1 - SPECTRA_SHARE),
});
