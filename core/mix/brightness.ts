import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from '../measure';
import { edgeCorner, heardShare, playedOf, type EdgeFilter, type EdgeTrack } from './edge';
import { erbNumber } from './masking';

/**
 * What a low-pass takes of the brightness of a track: of its loudness as the ear adds it up over the bands of hearing, in which the soft highs of an
 * instrument count for far more than in its power.
 * Source: B. Moore, B. Glasberg, T. Baer, "A model for the prediction of thresholds, loudness, and partial loudness", JAES 45, 1997: specific loudness
 * is as (E + A)^0.2 − A^0.2 (values from memory), here without the ear's own weighting; a full-scale sine counts as 100 dB SPL.
 */
const EXPONENT = 0.2;
const THRESHOLD = 4.72;
const FULL_SCALE = 10 ** (100 / 10);
/** This share of a loudness is hardly missed: half a decibel, about what is just noticed as a difference in level (common practice). */
const MISSED_LU = 10 * Math.log10(2 ** (0.5 / 10));

const ERBS = SPECTRUM_CENTERS_HZ.map((hz) => erbNumber(hz * 2 ** (1 / 24)) - erbNumber(hz * 2 ** (-1 / 24)));
const specificLoudness = (excitation: number) =>
  (excitation * FULL_SCALE + THRESHOLD) ** EXPONENT - THRESHOLD ** EXPONENT;

/**
 * The lowest low-pass that takes no more of a track's loudness than is hardly missed, over some blocks.
 * @param isInMix true to count only what the rest leaves of it
 * @returns Hz; null where it does not play, or any low-pass takes more
 */
export function brightCorner(
  track: EdgeTrack,
  filter: EdgeFilter,
  rateHz: number,
  within: { from: number; to: number },
  isInMix: boolean,
): number | null {
  const { field, rest } = track;
  const played = playedOf(track);
  const loudness = new Float64Array(SPECTRUM_BANDS);
  for (let block = within.from; block < within.to; block++) {
    if (!played[block]) continue;
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const at = block * SPECTRUM_BANDS + band;
      const share = isInMix ? heardShare(field.excitation[at], rest[at]) : 1;
      loudness[band] += ERBS[band] * share * specificLoudness(field.excitation[at]);
    }
  }
  return edgeCorner(loudness, filter, rateHz, MISSED_LU, EXPONENT);
}
