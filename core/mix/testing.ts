import { LEVEL_BYTE_DB, spectrumBandOf, SPECTRUM_BANDS, STEPS_PER_SECOND, wholeRows } from '../measure';
import type { BandLevels } from './part-loudness';

/** Recordings for tests, made as the levels that would be measured of them. */
export const byteOf = (db: number) => Math.round((db + 115) / LEVEL_BYTE_DB);

/** Levels over time, silent but for some ranges. @param parts level in each band of a range, dB; the time is all of it or some seconds */
export function levelsWith(
  seconds: number,
  parts: readonly { lowHz: number; highHz: number; db: number; from?: number; to?: number }[],
): Uint8Array {
  const levels = new Uint8Array(seconds * STEPS_PER_SECOND * SPECTRUM_BANDS);
  for (const { lowHz, highHz, db, from = 0, to = seconds } of parts)
    for (let step = from * STEPS_PER_SECOND; step < to * STEPS_PER_SECOND; step++)
      levels.fill(
        byteOf(db),
        step * SPECTRUM_BANDS + spectrumBandOf(lowHz),
        step * SPECTRUM_BANDS + spectrumBandOf(highHz) + 1,
      );
  return levels;
}

/** The name of a recording in tests. */
export const audioIdOf = (letter: string) => letter.repeat(64);

/** Levels as measures take them, of recordings that are known as a whole. */
export const allRows = (levels: Readonly<Record<string, Uint8Array>>): BandLevels =>
  Object.fromEntries(Object.entries(levels).map(([audioId, bytes]) => [audioId, [wholeRows(bytes)]]));
