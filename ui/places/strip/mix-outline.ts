import type { PeaksLevel } from '@/core/measure';

/** A track's part in the outline of the mix. */
export interface OutlinePart {
  peaks: PeaksLevel;
  /** Linear gain of the fader; 0 when it is not heard. */
  gain: number;
}

/** Peaks of tracks whose entries lie on the same frames, at their faders, their powers added. */
interface AddedPeaks {
  framesPerEntry: number;
  firstFrame: number;
  /** Linear, one for each entry. */
  powers: Float64Array;
}

/** Adds the peaks of tracks as sounds that have nothing to do with each other: once, for as many outlines as are drawn of them. */
export function addPeaks(parts: readonly OutlinePart[]): AddedPeaks[] {
  const added = new Map<string, AddedPeaks>();
  for (const { peaks, gain } of parts) {
    const { framesPerEntry, firstFrame = 0, extremes } = peaks;
    if (gain === 0) continue;
    const key = `${framesPerEntry}/${firstFrame}`;
    const entries = extremes.length / 2;
    const before = added.get(key)?.powers ?? new Float64Array();
    const powers = before.length >= entries ? before : new Float64Array(entries);
    if (powers !== before) powers.set(before);
    for (let i = 0; i < entries; i++) powers[i] += (Math.max(0, -extremes[2 * i], extremes[2 * i + 1]) * gain) ** 2;
    added.set(key, { framesPerEntry, firstFrame, powers });
  }
  return [...added.values()];
}

/**
 * How high the mix stands over time, from the peaks of its tracks at their faders: the root of the sum of their squares. An outline, not a measurement.
 * @param fromFrame where the outline begins in the song
 * @param lengthFrames how many frames it covers
 * @param columns how many values
 * @returns linear, one value per column
 */
export function mixOutline(
  added: readonly AddedPeaks[],
  fromFrame: number,
  lengthFrames: number,
  columns: number,
): Float64Array {
  const sum = new Float64Array(columns);
  const framesPerColumn = lengthFrames / columns;
  for (const { framesPerEntry, firstFrame, powers } of added) {
    const offset = fromFrame - firstFrame;
    for (let column = 0; column < columns; column++) {
      const first = Math.floor((offset + column * framesPerColumn) / framesPerEntry);
      const last = Math.max(first + 1, Math.floor((offset + (column + 1) * framesPerColumn) / framesPerEntry));
      let power = 0;
      for (let i = Math.max(0, first); i < Math.min(powers.length, last); i++) power = Math.max(power, powers[i]);
      sum[column] += power;
    }
  }
  return sum.map(Math.sqrt);
}
