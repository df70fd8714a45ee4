import type { AnalogSection } from './analog';

/** A complex number. */
export interface Complex {
  re: number;
  im: number;
}

/**
 * An analog low-pass from its upper poles (and, where it has them, the zeros on the axis that belong to them), as sections of unit gain
 * at 0 Hz, gentlest first. A real pole makes a section of first order.
 * @param poles one of each conjugate pair, and the real one; left of the axis
 * @param zeros frequencies of the zeros on the axis, one for each pair of poles, or none
 */
export function lowPassSections(poles: readonly Complex[], zeros: readonly number[] = []): AnalogSection[] {
  const isReal = (pole: Complex) => Math.abs(pole.im) < 1e-12;
  const pairs = poles.filter((pole) => !isReal(pole)).map((pole, i) => ({ pole, zero: zeros[i] }));
  pairs.sort((a, b) => sharpness(a.pole) - sharpness(b.pole));
  const second = pairs.map(({ pole, zero }): AnalogSection => {
    const power = pole.re * pole.re + pole.im * pole.im;
    return {
      numerator: [power, 0, zero === undefined ? 0 : power / (zero * zero)],
      denominator: [power, -2 * pole.re, 1],
    };
  });
  const first = poles
    .filter(isReal)
    .map((pole): AnalogSection => ({ numerator: [-pole.re, 0, 0], denominator: [-pole.re, 1, 0] }));
  return [...first, ...second];
}

const sharpness = ({ re, im }: Complex) => Math.hypot(re, im) / (-2 * re);

/** A level as part of the first section. @param gain linear */
export function withGain([first, ...rest]: readonly AnalogSection[], gain: number): AnalogSection[] {
  const [n0, n1, n2] = first.numerator;
  return [{ ...first, numerator: [n0 * gain, n1 * gain, n2 * gain] }, ...rest];
}

/** The high-pass that mirrors a low-pass: s becomes 1/s. */
export function highPassOf(sections: readonly AnalogSection[]): AnalogSection[] {
  return sections.map(({ numerator: [n0, n1, n2], denominator: [d0, d1, d2] }) =>
    d2 === 0
      ? { numerator: [n1, n0, 0], denominator: [d1, d0, 0] }
      : { numerator: [n2, n1, n0], denominator: [d2, d1, d0] },
  );
}
