import { magnitudeDb, type Section } from '../filters';
import { SPECTRUM_CENTERS_HZ } from './bands';

/**
 * The K-weighting of ITU-R BS.1770-4, from its published coefficients at 48 kHz, in dB at a frequency: a shelf for the head
 * and a high-pass. The constant −0.691 of the loudness formula is not part of it.
 */
const K_SECTIONS: readonly Section[] = [
  { b0: 1.53512485958697, b1: -2.69169618940638, b2: 1.19839281085285, a1: -1.69065929318241, a2: 0.73248077421585 },
  { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 },
];

export function kWeightingDb(frequencyHz: number): number {
  return magnitudeDb(K_SECTIONS, frequencyHz, 48000);
}

const WEIGHTS = SPECTRUM_CENTERS_HZ.map((hz) => 10 ** (kWeightingDb(hz) / 10));

/** One sounding part of the mix: its spectrum before and after its chain, each with fader and audibility applied, dB. */
export interface MixedSpectrum {
  beforeDb: ArrayLike<number>;
  afterDb: ArrayLike<number>;
}

/**
 * The gain that makes the mix before as loud as the mix after: the ratio of their K-weighted long-term powers. The tracks are
 * taken as uncorrelated, so their powers add.
 * @returns dB to apply to "before"; 0 when nothing sounds
 */
export function matchedGainDb(tracks: readonly MixedSpectrum[]): number {
  let before = 0;
  let after = 0;
  for (const track of tracks) {
    for (let i = 0; i < WEIGHTS.length; i++) {
      before += WEIGHTS[i] * 10 ** (track.beforeDb[i] / 10);
      after += WEIGHTS[i] * 10 ** (track.afterDb[i] / 10);
    }
  }
  return before > 0 && after > 0 ? 10 * Math.log10(after / before) : 0;
}
