import { K_POWERS, SPECTRUM_BAND_EDGES, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../measure';
import { playedBlocks } from './clearance';
import type { Blocks, Field } from './fields';

/** A range counts as thin where the rest is this far below its own surroundings, dB … */
const THIN_DB = -3;
/** … an octave to either side, in bands … */
const SURROUNDINGS = 14;
/** … over at least so many bands, where most instruments live. */
const LEAST_BANDS = 4;
const LOW_HZ = 60;
const HIGH_HZ = 14000;

/**
 * Where there is space: the ranges in which everything else is thin while a track plays, beside what it is an octave lower and higher.
 * @param all excitation of the whole mix, the track included
 */
export function thinRanges(own: Field, all: ArrayLike<number>, blocks: Blocks): FrequencyBand[] {
  const total = new Float64Array(blocks.count);
  for (let block = 0; block < blocks.count; block++)
    for (let band = 0; band < SPECTRUM_BANDS; band++)
      total[block] += K_POWERS[band] * own.excitation[block * SPECTRUM_BANDS + band];
  const rest = new Float64Array(SPECTRUM_BANDS);
  playedBlocks(total).forEach((plays, block) => {
    if (!plays) return;
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const at = block * SPECTRUM_BANDS + band;
      rest[band] += Math.max(0, all[at] - own.excitation[at]);
    }
  });
  if (rest.every((power) => power < 1e-9)) return [];
  // Music falls by some 3 dB an octave in these bands; it is levelled out, so that the slope is not taken for a hole.
  const levels = Array.from(
    rest,
    (power, band) => 10 * Math.log10(power + 1e-12) + 3 * Math.log2(SPECTRUM_CENTERS_HZ[band] / 1000),
  );
  const isThin = levels.map((db, band) => {
    const hz = SPECTRUM_CENTERS_HZ[band];
    if (hz < LOW_HZ || hz > HIGH_HZ) return false;
    const around = levels.slice(Math.max(0, band - SURROUNDINGS), band + SURROUNDINGS + 1);
    return db - around.reduce((sum, value) => sum + value, 0) / around.length < THIN_DB;
  });
  const ranges: FrequencyBand[] = [];
  for (let band = 0; band < SPECTRUM_BANDS; band++) {
    if (!isThin[band]) continue;
    let last = band;
    while (isThin[last + 1]) last++;
    if (last - band + 1 >= LEAST_BANDS)
      ranges.push({ lowHz: SPECTRUM_BAND_EDGES[band].lowHz, highHz: SPECTRUM_BAND_EDGES[last].highHz });
    band = last;
  }
  return ranges;
}
