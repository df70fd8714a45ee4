import type { AnalogSection } from './analog';

/**
 * Notch: `(s² + 1) / (s² + s/Q + 1)`: nothing passes at the frequency, −3 dB at the edges.
 * Source: Audio EQ Cookbook, R. Bristow-Johnson (W3C Audio Working Group Note), notch.
 * @param q 0.1 to 100
 */
export function notch(q: number): AnalogSection[] {
  return [{ numerator: [1, 0, 1], denominator: [1, 1 / q, 1] }];
}

/** Band-pass: `(s/Q) / (s² + s/Q + 1)`: 0 dB at the frequency, −3 dB at the edges. Source: as above, BPF with 0 dB peak gain. */
export function bandPass(q: number): AnalogSection[] {
  return [{ numerator: [0, 1 / q, 0], denominator: [1, 1 / q, 1] }];
}

/** All-pass: `(s² − s/Q + 1) / (s² + s/Q + 1)`: the phase turns by 180° at the frequency, the level stays. Source: as above, APF. */
export function allPass(q: number): AnalogSection[] {
  return [{ numerator: [1, -1 / q, 1], denominator: [1, 1 / q, 1] }];
}
