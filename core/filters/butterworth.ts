import type { AnalogSection } from './analog';

/**
 * Quality factors of the conjugate pole pairs of a Butterworth filter: `Q_k = 1 / (2·sin((2k−1)π/2n))`,
 * gentlest first. An odd order has one real pole besides.
 * Source: A. Zverev, Handbook of Filter Synthesis, 1967; the poles lie evenly on the left half of the unit circle.
 * @param order 1 to 16
 */
export function butterworthQs(order: number): number[] {
  const pairs = Math.floor(order / 2);
  return Array.from({ length: pairs }, (_, k) => 1 / (2 * Math.sin(((2 * (pairs - k) - 1) * Math.PI) / (2 * order))));
}

/**
 * Butterworth low-pass of a given order as a cascade: −3.01 dB at the corner, 6.02 dB per octave for each order above.
 * @param order 1 to 16
 */
export function butterworthLowPass(order: number): AnalogSection[] {
  const pairs = butterworthQs(order).map((q): AnalogSection => ({ numerator: [1, 0, 0], denominator: [1, 1 / q, 1] }));
  return order % 2 === 1 ? [{ numerator: [1, 0, 0], denominator: [1, 1, 0] }, ...pairs] : pairs;
}

/**
 * Linkwitz-Riley low-pass: a Butterworth of half the order twice. −6.02 dB at the corner, where it and its high-pass add up to an
 * all-pass. Source: S. Linkwitz, "Active Crossover Networks for Noncoincident Drivers", JAES 1976.
 * @param order 2 to 16, even
 */
export function linkwitzRileyLowPass(order: number): AnalogSection[] {
  const half = butterworthLowPass(order / 2);
  // Two real poles at one place are one section of Q = 1/2.
  if ((order / 2) % 2 === 0) return [...half, ...half];
  const [, ...pairs] = half;
  return [{ numerator: [1, 0, 0], denominator: [1, 2, 1] }, ...pairs, ...pairs];
}

/**
 * Resonant low-pass: a Butterworth cascade in which the most resonant section takes `q` in place of its own.
 * @param order 2 to 8
 * @param q 0.1 to 100
 */
export function resonantLowPass(order: number, q: number): AnalogSection[] {
  const sections = butterworthLowPass(order);
  return [...sections.slice(0, -1), { numerator: [1, 0, 0], denominator: [1, 1 / q, 1] }];
}
