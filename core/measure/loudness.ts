import { SPECTRUM_CENTERS_HZ } from './bands';
import { BYTE_POWERS, STEPS_PER_SECOND } from './band-levels';
import { kWeightingDb } from './k-weighting';
import { eachRow, type LevelRows } from './level-rows';

/** K-weighting of each band as a power gain. */
export const K_POWERS: readonly number[] = SPECTRUM_CENTERS_HZ.map((hz) => 10 ** (kWeightingDb(hz) / 10));
/** Mean square of a full-scale sine. */
export const SINE_POWER = 0.5;
const MOMENTARY_STEPS = 0.4 * STEPS_PER_SECOND;
const SHORT_TERM_STEPS = 3 * STEPS_PER_SECOND;
const STEPS_BETWEEN_BLOCKS = 0.1 * STEPS_PER_SECOND;
const ABSOLUTE_GATE_LUFS = -70;
const RELATIVE_GATE_LU = -10;
const RANGE_GATE_LU = -20;

/** A stretch of the song in steps of 50 ms. */
export interface StepRange {
  from: number;
  to: number;
}

/**
 * K-weighted power of a recording in every step of a stretch, after a chain: what all its channels together add to the mean square of
 * BS.1770.
 * @param levels that cover the stretch
 * @param channels of the recording: a mono one is shared out by the position law with its power kept
 * @param powerGains what the signal meets on its way, one power gain for each band
 * @returns one mean square a step; 0 beyond the end of the recording
 */
export function weightedPowers(
  levels: LevelRows,
  channels: 1 | 2,
  powerGains: ArrayLike<number>,
  range: StepRange,
): Float64Array {
  const weights = Float64Array.from(K_POWERS, (k, band) => channels * SINE_POWER * k * powerGains[band]);
  const powers = new Float64Array(Math.max(0, range.to - range.from));
  const { bytes } = levels;
  const powerOf = BYTE_POWERS;
  eachRow(levels, range, (at, first, end) => {
    let sum = 0;
    for (let band = 0; band < weights.length; band++) sum += weights[band] * powerOf[bytes[at + band]];
    powers.fill(sum, first - range.from, end - range.from);
  });
  return powers;
}

/** Loudness of a K-weighted mean square, LUFS; −Infinity for silence. Source: ITU-R BS.1770-4. */
export const toLufs = (power: number) => -0.691 + 10 * Math.log10(power);

/** Means over windows of so many steps that begin every 100 ms; a stretch that is shorter is one window. */
function blockPowers(powers: ArrayLike<number>, steps: number): number[] {
  const blocks: number[] = [];
  const length = Math.min(steps, powers.length);
  for (let at = 0; length > 0 && at + length <= powers.length; at += STEPS_BETWEEN_BLOCKS) {
    let sum = 0;
    for (let i = at; i < at + length; i++) sum += powers[i];
    blocks.push(sum / length);
  }
  return blocks;
}

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
const highest = (values: readonly number[]) => toLufs(values.reduce((most, value) => Math.max(most, value), 0));

/** What is above −70 LUFS, and then not further below the mean of that than a gate. */
function gated(blocks: readonly number[], gateLu: number): number[] {
  const heard = blocks.filter((power) => toLufs(power) > ABSOLUTE_GATE_LUFS);
  if (heard.length === 0) return [];
  const gate = toLufs(mean(heard)) + gateLu;
  return heard.filter((power) => toLufs(power) > gate);
}

/**
 * Integrated loudness: blocks of 400 ms that overlap by 75 %, those below −70 LUFS left out, then those 10 LU below the mean of the rest.
 * A stretch that is shorter than a block is one block. Source: ITU-R BS.1770-4, annex 1.
 * @param powers K-weighted mean squares, summed over the channels, one a step of 50 ms
 * @returns LUFS; −Infinity for silence
 */
export function integratedLufs(powers: ArrayLike<number>): number {
  const blocks = gated(blockPowers(powers, MOMENTARY_STEPS), RELATIVE_GATE_LU);
  return blocks.length === 0 ? -Infinity : toLufs(mean(blocks));
}

/**
 * Loudness range: from the 10th to the 95th percentile of the short-term loudness, of what is above −70 LUFS and not 20 LU below the
 * mean of that. Source: EBU Tech 3342.
 * @param powers as for {@link integratedLufs}
 * @returns LU; 0 for silence and for what is shorter than 3 s
 */
export function loudnessRangeLu(powers: ArrayLike<number>): number {
  if (powers.length < SHORT_TERM_STEPS) return 0;
  const levels = gated(blockPowers(powers, SHORT_TERM_STEPS), RANGE_GATE_LU)
    .map(toLufs)
    .sort((a, b) => a - b);
  if (levels.length === 0) return 0;
  const at = (share: number) => levels[Math.round(share * (levels.length - 1))];
  return at(0.95) - at(0.1);
}

/** The loudest 400 ms, LUFS. Source: EBU Tech 3341. @param powers as for {@link integratedLufs} */
export const highestMomentaryLufs = (powers: ArrayLike<number>) => highest(blockPowers(powers, MOMENTARY_STEPS));

/** The loudest 3 s, LUFS. Source: EBU Tech 3341. */
export const highestShortTermLufs = (powers: ArrayLike<number>) => highest(blockPowers(powers, SHORT_TERM_STEPS));

/** Mean of the last steps, as much as there is of them; what momentary and short-term loudness read now. */
function latest(powers: Float64Array, steps: number): number {
  if (powers.length === 0) return -Infinity;
  const last = powers.subarray(Math.max(0, powers.length - steps));
  return toLufs(last.reduce((sum, value) => sum + value, 0) / steps);
}
export const momentaryLufs = (powers: Float64Array) => latest(powers, MOMENTARY_STEPS);
export const shortTermLufs = (powers: Float64Array) => latest(powers, SHORT_TERM_STEPS);

/** More than this is not made up for: what is nearly silent would be blown up. */
const MOST_MATCHED_DB = 24;

/** The gain that brings one loudness to another, dB, within ±24; 0 where one of them is silent. */
export function matchingGainDb(fromLufs: number, targetLufs: number): number {
  if (!Number.isFinite(fromLufs) || !Number.isFinite(targetLufs)) return 0;
  return Math.min(MOST_MATCHED_DB, Math.max(-MOST_MATCHED_DB, targetLufs - fromLufs));
}
