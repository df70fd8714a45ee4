import type { PeaksLevel } from '@/core/measure';

/** A track's part in the outline of the mix. */
export interface OutlinePart {
  peaks: readonly PeaksLevel[];
  /** Linear gain of the fader; 0 when it is not heard. */
  gain: number;
}

/**
 * How high the mix stands over time, from the peaks of its tracks at their faders: the root of the sum of their squares, as
 * for sounds that have nothing to do with each other. An outline, not a measurement.
 * @param fromFrame where the outline begins in the song
 * @param lengthFrames how many frames it covers
 * @param columns how many values
 * @returns linear, one value per column
 */
export function mixOutline(
  parts: readonly OutlinePart[],
  fromFrame: number,
  lengthFrames: number,
  columns: number,
): Float64Array {
  const power = new Float64Array(columns);
  const framesPerColumn = lengthFrames / columns;
  for (const { peaks, gain } of parts) {
    const level = levelFor(peaks, framesPerColumn);
    if (!level || gain === 0) continue;
    const entries = level.extremes.length / 2;
    const offset = fromFrame - (level.firstFrame ?? 0);
    for (let column = 0; column < columns; column++) {
      const first = Math.floor((offset + column * framesPerColumn) / level.framesPerEntry);
      const last = Math.max(first + 1, Math.floor((offset + (column + 1) * framesPerColumn) / level.framesPerEntry));
      let peak = 0;
      for (let i = Math.max(0, first); i < Math.min(entries, last); i++)
        peak = Math.max(peak, -level.extremes[2 * i], level.extremes[2 * i + 1]);
      power[column] += (peak * gain) ** 2;
    }
  }
  return power.map(Math.sqrt);
}

/** The coarsest level of the pyramid that is still finer than a column. */
function levelFor(peaks: readonly PeaksLevel[], framesPerColumn: number): PeaksLevel | undefined {
  return peaks.findLast((level) => level.framesPerEntry <= framesPerColumn) ?? peaks[0];
}
