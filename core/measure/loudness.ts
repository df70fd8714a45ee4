import { kWeightingDb } from './k-weighting';
import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from './bands';
import { SHORT_BANDS, SHORT_PER_SECOND, SHORT_POWERS } from './short-spectra';

const K_POWERS = SPECTRUM_CENTERS_HZ.map((hz) => 10 ** (kWeightingDb(hz) / 10));
/** Mean square of a full-scale sine. */
const SINE_POWER = 0.5;
const STEPS_PER_BLOCK = 0.4 * SHORT_PER_SECOND;
const STEPS_BETWEEN_BLOCKS = 0.1 * SHORT_PER_SECOND;
const ABSOLUTE_GATE_LUFS = -70;
const RELATIVE_GATE_LU = -10;

/** A stretch of the song in steps of 50 ms. */
export interface StepRange {
  from: number;
  to: number;
}

/**
 * K-weighted power of a recording in every step of a stretch, after a chain: what all its channels together add to the mean square of
 * BS.1770.
 * @param short see {@link SHORT_BANDS}
 * @param channels of the recording: a mono one is shared out by the position law with its power kept
 * @param powerGains what the signal meets on its way, one power gain for each of the 120 bands of the long-term spectrum
 * @returns one mean square a step; 0 beyond the end of the recording
 */
export function weightedPowers(
  short: Uint8Array,
  channels: 1 | 2,
  powerGains: ArrayLike<number>,
  { from, to }: StepRange,
): Float64Array {
  const weights = new Float64Array(SHORT_BANDS);
  const perBand = SPECTRUM_BANDS / SHORT_BANDS;
  for (let i = 0; i < SPECTRUM_BANDS; i++)
    weights[Math.floor(i / perBand)] += (channels * SINE_POWER * K_POWERS[i] * powerGains[i]) / perBand;
  const powers = new Float64Array(Math.max(0, to - from));
  const end = Math.min(to, short.length / SHORT_BANDS);
  for (let step = from; step < end; step++) {
    let sum = 0;
    for (let band = 0; band < SHORT_BANDS; band++)
      sum += weights[band] * SHORT_POWERS[short[step * SHORT_BANDS + band]];
    powers[step - from] = sum;
  }
  return powers;
}

const toLufs = (power: number) => -0.691 + 10 * Math.log10(power);

function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

/**
 * Integrated loudness: blocks of 400 ms that overlap by 75 %, those below −70 LUFS left out, then those 10 LU below the mean of the rest.
 * A stretch that is shorter than a block is one block. Source: ITU-R BS.1770-4, annex 1.
 * @param powers K-weighted mean squares, summed over the channels, one a step of 50 ms
 * @returns LUFS; −Infinity for silence
 */
export function integratedLufs(powers: ArrayLike<number>): number {
  const blocks: number[] = [];
  const length = Math.min(STEPS_PER_BLOCK, powers.length);
  for (let at = 0; length > 0 && at + length <= powers.length; at += STEPS_BETWEEN_BLOCKS) {
    let sum = 0;
    for (let i = at; i < at + length; i++) sum += powers[i];
    blocks.push(sum / length);
  }
  const heard = blocks.filter((power) => toLufs(power) > ABSOLUTE_GATE_LUFS);
  if (heard.length === 0) return -Infinity;
  const gate = toLufs(mean(heard)) + RELATIVE_GATE_LU;
  return toLufs(mean(heard.filter((power) => toLufs(power) > gate)));
}

/** More than this is not made up for: what is nearly silent would be blown up. */
const MOST_MATCHED_DB = 24;

/** The gain that brings one loudness to another, dB, within ±24; 0 where one of them is silent. */
export function matchingGainDb(fromLufs: number, toLufs: number): number {
  if (!Number.isFinite(fromLufs) || !Number.isFinite(toLufs)) return 0;
  return Math.min(MOST_MATCHED_DB, Math.max(-MOST_MATCHED_DB, toLufs - fromLufs));
}
