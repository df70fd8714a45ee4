import type { Section } from '../filters/section';

/**
 * A digital section as the coefficients of a state-variable filter with trapezoidal integrators, which computes the same
 * response and stays calm and stable while its coefficients move.
 * Source: A. Simper, "Linear Trapezoidal Integrated State Variable Filter", 2013 (public technical note); the mapping from
 * b and a is the comparison of coefficients of that structure's transfer function.
 *
 * `g` and `k` set the poles; the output is `m0·input + m1·band + m2·low`.
 */
export interface StateVariable {
  g: number;
  k: number;
  m0: number;
  m1: number;
  m2: number;
}

/**
 * @param section stable: |a2| < 1, |a1| < 1 + a2
 * @returns coefficients with g, k > 0
 */
export function toStateVariable(section: Section): StateVariable {
  const { b0, b1, b2, a1, a2 } = section;
  const atNyquist = 1 - a1 + a2;
  const d = 4 / atNyquist;
  const g = Math.sqrt((1 + a1 + a2) / atNyquist);
  const k = ((1 - a2) * d) / (2 * g);
  // b0 = m0 + (m1·g + m2·g²)/D, b1 = m0·a1 + 2·m2·g²/D, b2 = m0·a2 + (m2·g² − m1·g)/D
  const m0 = (b0 - b1 + b2) / atNyquist;
  const low = (b1 - m0 * a1) / 2;
  const m2 = (low * d) / (g * g);
  const m1 = ((b0 - m0 - low) * d) / g;
  return { g, k, m0, m1, m2 };
}

/** The same section by its numerator and denominator: what {@link toStateVariable} was made from. */
export function toDirectForm({ g, k, m0, m1, m2 }: StateVariable): Section {
  const scale = 1 / (1 + g * (g + k));
  const a1 = 2 * (g * g - 1) * scale;
  const a2 = (1 + g * (g - k)) * scale;
  const band = m1 * g * scale;
  const low = m2 * g * g * scale;
  return { b0: m0 + band + low, b1: m0 * a1 + 2 * low, b2: m0 * a2 + low - band, a1, a2 };
}
