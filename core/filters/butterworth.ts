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

function cascade(
  order: number,
  first: AnalogSection['numerator'],
  second: AnalogSection['numerator'],
): AnalogSection[] {
  const pairs = butterworthQs(order).map((q): AnalogSection => ({ numerator: second, denominator: [1, 1 / q, 1] }));
  return order % 2 === 1 ? [{ numerator: first, denominator: [1, 1, 0] }, ...pairs] : pairs;
}

/**
 * Butterworth high-pass of a given order as a cascade: −3.01 dB at the corner, 6.02 dB per octave for each order below.
 * @param order 1 to 16
 */
export function butterworthHighPass(order: number): AnalogSection[] {
  return cascade(order, [0, 1, 0], [0, 0, 1]);
}

/** Butterworth low-pass: the mirror of {@link butterworthHighPass}. @param order 1 to 16 */
export function butterworthLowPass(order: number): AnalogSection[] {
  return cascade(order, [1, 0, 0], [1, 0, 0]);
}
