import { BYTE_POWERS, eachRow, rowsOver, SPECTRUM_BANDS, type StepRange } from '../measure';
import type { Song } from '../song';
import { tracksInto } from './gains';
import type { BandLevels } from './part-loudness';
import type { StripMeasures } from './strip-measures';

/** Of what lies so low nothing can be told. */
const LEAST_DB = -110;
/** Beyond these no two powers differ from their sum but by what is not known of them. */
const MOST_ADDED = { least: -40, most: 12 };

/**
 * By how much what feeds a bus adds up to more, or less, than its powers, dB for each band: tracks of one source, or of one note, are no strangers.
 * @param inDb the measured mean level of the sum over the stretch, a side
 * @returns null while the levels of a track are not here
 */
export function addedDb(
  song: Song,
  busId: string,
  inDb: ArrayLike<number>,
  levels: BandLevels,
  range: StepRange,
  measures: StripMeasures,
): Float64Array | null {
  const sum = new Float64Array(SPECTRUM_BANDS);
  for (const { audioId, channels, gains } of tracksInto(song, busId, measures)) {
    if (!gains.some((gain) => gain > 0)) continue;
    const rows = rowsOver(levels[audioId] ?? [], range);
    if (!rows) return null;
    const share = channels / (range.to - range.from);
    eachRow(rows, range, (at, first, end) => {
      for (let band = 0; band < SPECTRUM_BANDS; band++)
        sum[band] += share * (end - first) * gains[band] * BYTE_POWERS[rows.bytes[at + band]];
    });
  }
  return sum.map((power, band) => {
    // Both sides of it.
    const estimateDb = 10 * Math.log10(power / 2 + 1e-30);
    if (estimateDb < LEAST_DB) return 0;
    return Math.min(MOST_ADDED.most, Math.max(MOST_ADDED.least, inDb[band] - estimateDb));
  });
}
