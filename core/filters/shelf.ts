import type { AnalogSection } from './analog';

/**
 * Low shelf: `A·(s² + s·√A/Q + A) / (A·s² + s·√A/Q + 1)`: `gainDb` far below the corner, half of it at the corner.
 * Source: Audio EQ Cookbook, R. Bristow-Johnson (W3C Audio Working Group Note), lowShelf.
 * @param gainDb −36 to 36 dB
 * @param q 0.1 to 100; above 0.7071 the response overshoots beside the corner
 */
export function lowShelf(gainDb: number, q: number): AnalogSection[] {
  const a = 10 ** (gainDb / 40);
  const slope = Math.sqrt(a) / q;
  return [{ numerator: [a * a, a * slope, a], denominator: [1, slope, a] }];
}

/**
 * High shelf: `A·(A·s² + s·√A/Q + 1) / (s² + s·√A/Q + A)`: `gainDb` far above the corner, half of it at the corner.
 * Source: Audio EQ Cookbook, highShelf. Ranges as for {@link lowShelf}.
 */
export function highShelf(gainDb: number, q: number): AnalogSection[] {
  const a = 10 ** (gainDb / 40);
  const slope = Math.sqrt(a) / q;
  return [{ numerator: [a, a * slope, a * a], denominator: [a, slope, 1] }];
}
