/**
 * A digital second-order section with a0 = 1:
 * `H(z) = (b0 + b1 z⁻¹ + b2 z⁻²) / (1 + a1 z⁻¹ + a2 z⁻²)`.
 * First-order sections have `b2 = a2 = 0`.
 */
export interface Section {
  b0: number;
  b1: number;
  b2: number;
  a1: number;
  a2: number;
}

/** True when both poles lie inside the unit circle (the stability triangle of a second-order denominator). */
export function isStable(section: Section): boolean {
  return Math.abs(section.a2) < 1 && Math.abs(section.a1) < 1 + section.a2;
}
