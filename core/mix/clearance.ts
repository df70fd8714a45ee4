import { spectrumBandOf, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../measure';

/** How a track stands against everything else in its claim. See docs/clearance.md. */
export interface Clearance {
  /** How far it stands above everything else while it plays, dB: the middle value of its blocks. */
  clearanceDb: number;
  /** Share of the time in which it plays that it is on top, 0 to 1. */
  onTop: number;
  /** How many blocks it plays in. */
  blocks: number;
}

/** Blocks so far below the loudest do not count as played, dB; nor what nobody hears at any level, dB relative to a full-scale sine … */
const DEEPEST_GATE_DB = -60;
const ABSOLUTE_GATE_DB = -95;
/** … nor those so far below the mean of the rest, as in EBU Tech 3342. */
const RELATIVE_GATE_DB = -20;
export const CLEARANCE_RANGE_DB = { min: -60, max: 60 } as const;

/** The bands whose middles lie in one of several ranges; the nearest band for a range between two middles. */
export function bandsIn(ranges: readonly FrequencyBand[]): number[] {
  const isIn = (band: number) =>
    ranges.some(({ lowHz, highHz }) => SPECTRUM_CENTERS_HZ[band] >= lowHz && SPECTRUM_CENTERS_HZ[band] <= highHz);
  const inside = Array.from({ length: SPECTRUM_BANDS }, (_, band) => band).filter(isIn);
  return inside.length > 0 ? inside : ranges.map(({ lowHz, highHz }) => spectrumBandOf(Math.sqrt(lowHz * highHz)));
}

/** True for every block in which powers count as played. @param powers one a block */
export function playedBlocks(powers: ArrayLike<number>): boolean[] {
  let loudest = 0;
  for (let block = 0; block < powers.length; block++) loudest = Math.max(loudest, powers[block]);
  const least = Math.max(loudest * 10 ** (DEEPEST_GATE_DB / 10), 10 ** (ABSOLUTE_GATE_DB / 10));
  let [sum, count] = [0, 0];
  for (let block = 0; block < powers.length; block++) {
    if (powers[block] <= least) continue;
    sum += powers[block];
    count++;
  }
  const gate = Math.max(least, (sum / Math.max(1, count)) * 10 ** (RELATIVE_GATE_DB / 10));
  const played = new Array<boolean>(powers.length);
  for (let block = 0; block < powers.length; block++) played[block] = powers[block] > gate;
  return played;
}

/** The middle value; the mean of the two in the middle of an even number. */
export function median(values: number[]): number {
  const sorted = Float64Array.from(values).sort();
  const half = Math.floor(sorted.length / 2);
  return sorted.length % 2 === 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
}

/** What a field gives in some bands, one sum a block. */
export function sumsIn(excitation: ArrayLike<number>, bands: readonly number[], blocks: number): Float64Array {
  const sums = new Float64Array(blocks);
  for (let block = 0; block < blocks; block++) {
    const at = block * SPECTRUM_BANDS;
    let sum = 0;
    for (let i = 0; i < bands.length; i++) sum += excitation[at + bands[i]];
    sums[block] = sum;
  }
  return sums;
}

/**
 * Clearance: in every block in which a track plays, the ratio of its excitation in its claim to that of everything else there; of these
 * ratios in dB the median.
 * @param own excitation of the track in its claim, one sum a block
 * @param all the same of the whole mix, the track included
 * @returns null where it never plays there
 */
export function clearance(own: ArrayLike<number>, all: ArrayLike<number>): Clearance | null {
  const played = playedBlocks(own);
  const ratios: number[] = [];
  let onTop = 0;
  for (let block = 0; block < own.length; block++) {
    if (!played[block]) continue;
    // What rounding leaves of a mix of one track is nothing.
    const rest = all[block] - own[block] > 1e-6 * own[block] ? all[block] - own[block] : 0;
    const ratio = rest === 0 ? CLEARANCE_RANGE_DB.max : 10 * Math.log10(own[block] / rest);
    ratios.push(Math.min(CLEARANCE_RANGE_DB.max, Math.max(CLEARANCE_RANGE_DB.min, ratio)));
    if (ratio > 0) onTop++;
  }
  if (ratios.length === 0) return null;
  return { clearanceDb: median(ratios), onTop: onTop / ratios.length, blocks: ratios.length };
}
