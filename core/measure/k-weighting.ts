import { magnitudeDb, type Section } from '../filters';

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
