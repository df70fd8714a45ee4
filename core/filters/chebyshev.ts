import type { AnalogSection } from './analog';
import { lowPassSections, withGain, type Complex } from './roots';

/** Poles of a Chebyshev filter of type I with its edge at 1, the upper half of them and the real one. */
function chebyshevPoles(order: number, epsilon: number): Complex[] {
  const mu = Math.asinh(1 / epsilon) / order;
  return Array.from({ length: Math.ceil(order / 2) }, (_, k) => {
    const theta = ((2 * k + 1) * Math.PI) / (2 * order);
    const isMiddle = 2 * k + 1 === order;
    return { re: -Math.sinh(mu) * Math.sin(theta), im: isMiddle ? 0 : Math.cosh(mu) * Math.cos(theta) };
  });
}

const epsilonOf = (db: number) => Math.sqrt(10 ** (db / 10) - 1);

/**
 * Chebyshev low-pass of type I: ripples of `rippleDb` below the corner, which is the edge of the passband, at `−rippleDb`; steeper than
 * Butterworth. Even orders begin at `−rippleDb` at 0 Hz.
 * Source: A. Zverev, Handbook of Filter Synthesis, 1967.
 * @param order 1 to 16
 * @param rippleDb 0.01 to 12 dB
 */
export function chebyshev1LowPass(order: number, rippleDb: number): AnalogSection[] {
  const sections = lowPassSections(chebyshevPoles(order, epsilonOf(rippleDb)));
  return order % 2 === 0 ? withGain(sections, 10 ** (-rippleDb / 20)) : sections;
}

/**
 * Chebyshev low-pass of type II: no ripple below the corner, which is at −3.01 dB; above it the response never rises over `−stopbandDb`.
 * Source: as above; scaled so that `|H|² = 1/2` at 1.
 * @param order 1 to 16
 * @param stopbandDb 10 to 120 dB
 */
export function chebyshev2LowPass(order: number, stopbandDb: number): AnalogSection[] {
  const depth = epsilonOf(stopbandDb);
  // With the edge of the stopband at 1, the half-power point lies at 1/cosh(acosh(depth)/n).
  const scale = Math.cosh(Math.acosh(Math.max(1, depth)) / order);
  const poles = chebyshevPoles(order, 1 / depth).map(({ re, im }): Complex => {
    const power = re * re + im * im;
    return { re: (re / power) * scale, im: (im / power) * scale };
  });
  const zeros = Array.from(
    { length: Math.floor(order / 2) },
    (_, k) => scale / Math.cos(((2 * k + 1) * Math.PI) / (2 * order)),
  );
  return lowPassSections(poles, zeros);
}
