import type { AnalogSection } from './analog';

/**
 * Tilt: `(A·s + 1)/(s + A)`, A = 10^(gainDb/40): 0 dB at the frequency, `+gainDb/2` far above it, `−gainDb/2` far below.
 * Source: elementary; a first-order shelf about its pivot.
 * @param gainDb −36 to 36 dB
 */
export function tilt(gainDb: number): AnalogSection[] {
  const a = 10 ** (gainDb / 40);
  return [{ numerator: [1, a, 0], denominator: [a, 1, 0] }];
}
