import type { AnalogSection } from './analog';

/**
 * Bell: `(s² + s·A/Q + 1) / (s² + s/(A·Q) + 1)`, A = 10^(gainDb/40).
 * Source: Audio EQ Cookbook, R. Bristow-Johnson (W3C Audio Working Group Note), peakingEQ.
 * @param gainDb gain at the centre, dB, −36 to 36; 0 gives the identity
 * @param q 0.1 to 100; the width between the half-gain points is that of {@link bandwidthFromQ}
 */
export function bell(gainDb: number, q: number): AnalogSection[] {
  const a = 10 ** (gainDb / 40);
  return [{ numerator: [1, a / q, 1], denominator: [1, 1 / (a * q), 1] }];
}

/**
 * Quality factor of a bandwidth: `1/Q = 2·sinh(ln2/2 · BW)`.
 * Source: Audio EQ Cookbook (analog form).
 * @param bandwidthOct width in octaves, > 0: half-gain points of a bell, −3 dB points of a notch or band-pass
 */
export function qFromBandwidth(bandwidthOct: number): number {
  return 1 / (2 * Math.sinh((Math.LN2 / 2) * bandwidthOct));
}

/** The inverse of {@link qFromBandwidth}: octaves between the edges. @param q > 0 */
export function bandwidthFromQ(q: number): number {
  return (2 / Math.LN2) * Math.asinh(1 / (2 * q));
}

/**
 * The two frequencies at which a bell has half its gain (in dB), or a notch its −3 dB points.
 * They lie symmetrically about the centre on a logarithmic axis.
 */
export function bandEdgesHz(frequencyHz: number, q: number): { lowHz: number; highHz: number } {
  const half = 2 ** (bandwidthFromQ(q) / 2);
  return { lowHz: frequencyHz / half, highHz: frequencyHz * half };
}
