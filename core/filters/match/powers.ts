/**
 * The squared magnitude of a digital polynomial c0 + c1 z⁻¹ + c2 z⁻² is linear in three numbers:
 * `|C|² = C0·φ0 + C1·φ1 + C2·φ2` with `φ0 = cos²(ω/2)`, `φ1 = sin²(ω/2)`, `φ2 = 4·φ0·φ1`,
 * `C0 = (c0+c1+c2)²`, `C1 = (c0−c1+c2)²`, `C2 = −4·c0·c2`. So a numerator follows a wanted magnitude by linear equations.
 * Source: M. Vicanek, "Matched Second Order Digital Filters", 2016.
 */
export type Powers = readonly [number, number, number];

/** φ0, φ1 and φ2. @param omega radians per sample */
export function basis(omega: number): Powers {
  const p1 = Math.sin(omega / 2) ** 2;
  const p0 = 1 - p1;
  return [p0, p1, 4 * p0 * p1];
}

/** The squared magnitude where φ0, φ1 and φ2 are `p`. */
export const dot = (c: Powers, p: Powers) => c[0] * p[0] + c[1] * p[1] + c[2] * p[2];

/** C0, C1 and C2 of a polynomial. */
export function powersOf(c0: number, c1: number, c2: number): Powers {
  return [(c0 + c1 + c2) ** 2, (c0 - c1 + c2) ** 2, -4 * c0 * c2];
}

/** The minimum-phase polynomial whose squared magnitude is given; what no real polynomial can have is moved to the nearest edge. */
export function polynomialOf([p0, p1, p2]: Powers): [number, number, number] {
  const root0 = Math.sqrt(Math.max(p0, 0));
  const root1 = Math.sqrt(Math.max(p1, 0));
  const w = (root0 + root1) / 2;
  const c0 = (w + Math.sqrt(Math.max(w * w + p2, 0))) / 2;
  return [c0, (root0 - root1) / 2, c0 === 0 ? 0 : -p2 / (4 * c0)];
}
