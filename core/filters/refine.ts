import { solveLinear } from './linear-equations';
import type { Section } from './section';

/**
 * Brings a cascade of digital sections nearer to the level that is wanted of it: an equal-ripple fit in decibels, from sections that
 * are near already. Gauss and Newton's step on the logarithm of the squared magnitude, with weights that grow where the error is large.
 * Sources: C. Lawson, 1961 (weights for the least greatest error); K. Levenberg, Quart. Appl. Math., 1944 (damping).
 */

/** Which numerators are allowed, one row per free number: so a zero at 0 Hz or on the unit circle stays where it is. */
export type NumeratorShape = readonly (readonly [number, number, number])[];

/** A section that may move: how its numerator may, and how near to the unit circle its poles may come. */
export interface MovingSection {
  section: Section;
  shape: NumeratorShape;
  widestPole: number;
}

/** What a fit aims at: levels at frequencies. */
export interface Aim {
  /** Radians per sample. */
  omegas: readonly number[];
  levelsDb: readonly number[];
}

const STEPS = 20;
/** So many steps in a row may bring nothing. */
const PATIENCE = 4;
const PER_NEPER = 10 / Math.LN10;

/** Buffers that are used again for every fit, so that a drag makes no garbage. Runs on one thread at a time and never calls itself. */
class Fit {
  private count = 0;
  private size = 0;
  private cos = new Float64Array(0);
  private cos2 = new Float64Array(0);
  private levelsDb = new Float64Array(0);
  private errors = new Float64Array(0);
  private weights = new Float64Array(0);
  private slopes = new Float64Array(0);
  private rows: Float64Array[] = [];
  private change = new Float64Array(0);

  begin({ omegas, levelsDb }: Aim, unknowns: number): void {
    this.count = omegas.length;
    this.size = unknowns;
    if (this.cos.length < this.count) {
      const points = 2 * this.count;
      this.cos = new Float64Array(points);
      this.cos2 = new Float64Array(points);
      this.levelsDb = new Float64Array(points);
      this.errors = new Float64Array(points);
      this.weights = new Float64Array(points);
    }
    if (this.rows.length < unknowns) {
      this.rows = Array.from({ length: unknowns }, () => new Float64Array(unknowns + 1));
      this.slopes = new Float64Array(unknowns);
      this.change = new Float64Array(unknowns);
    }
    for (let i = 0; i < this.count; i++) {
      this.cos[i] = Math.cos(omegas[i]);
      this.cos2[i] = 2 * this.cos[i] * this.cos[i] - 1;
      this.levelsDb[i] = levelsDb[i];
      this.weights[i] = 1;
    }
  }

  /** The greatest error, dB; the errors are kept for the next step. */
  measure(sections: readonly MovingSection[]): number {
    const { cos, cos2, errors } = this;
    errors.fill(1, 0, this.count);
    for (const { section } of sections) {
      const { b0, b1, b2, a1, a2 } = section;
      // |c0 + c1 z⁻¹ + c2 z⁻²|² = c0² + c1² + c2² + 2·c1·(c0 + c2)·cos ω + 2·c0·c2·cos 2ω
      const [u, u1, u2] = [b0 * b0 + b1 * b1 + b2 * b2, 2 * b1 * (b0 + b2), 2 * b0 * b2];
      const [d, d1, d2] = [1 + a1 * a1 + a2 * a2, 2 * a1 * (1 + a2), 2 * a2];
      for (let i = 0; i < this.count; i++) {
        const up = Math.max(1e-30, u + u1 * cos[i] + u2 * cos2[i]);
        errors[i] *= up / Math.max(1e-30, d + d1 * cos[i] + d2 * cos2[i]);
      }
    }
    let most = 0;
    for (let i = 0; i < this.count; i++) {
      errors[i] = PER_NEPER * Math.log(errors[i]) - this.levelsDb[i];
      most = Math.max(most, Math.abs(errors[i]));
    }
    return most;
  }

  /** Gauss and Newton's step from sections whose errors have just been measured; false when there is none. */
  step(sections: readonly MovingSection[]): boolean {
    const { slopes, rows, size, weights, errors } = this;
    for (let r = 0; r < size; r++) rows[r].fill(0, 0, size + 1);
    for (let i = 0; i < this.count; i++) {
      this.writeSlopes(sections, i);
      for (let r = 0; r < size; r++) {
        const weighted = weights[i] * slopes[r];
        const row = rows[r];
        for (let c = r; c < size; c++) row[c] += weighted * slopes[c];
        row[size] -= weighted * errors[i];
      }
    }
    for (let r = 0; r < size; r++) {
      for (let c = 0; c < r; c++) rows[r][c] = rows[c][r];
      rows[r][r] *= 1 + 1e-6;
    }
    return solveLinear(this.rows, this.change, this.size);
  }

  /** How the level at a point moves with each unknown. */
  private writeSlopes(sections: readonly MovingSection[], i: number): void {
    const { slopes } = this;
    const [cos, cos2] = [this.cos[i], this.cos2[i]];
    let at = 0;
    for (const { section, shape } of sections) {
      const { b0, b1, b2, a1, a2 } = section;
      const [u0, u1, u2] = [b0 + b1 * cos + b2 * cos2, b1 + (b0 + b2) * cos, b2 + b1 * cos + b0 * cos2];
      const [d0, d1, d2] = [1 + a1 * cos + a2 * cos2, a1 + (1 + a2) * cos, a2 + a1 * cos + cos2];
      const up = (2 * PER_NEPER) / Math.max(1e-30, b0 * u0 + b1 * u1 + b2 * u2);
      const down = (-2 * PER_NEPER) / Math.max(1e-30, d0 + a1 * d1 + a2 * d2);
      for (const [s0, s1, s2] of shape) slopes[at++] = up * (s0 * u0 + s1 * u1 + s2 * u2);
      slopes[at++] = down * d1;
      slopes[at++] = down * d2;
    }
  }

  moved(sections: readonly MovingSection[], scale: number): MovingSection[] {
    let at = 0;
    return sections.map((moving) => {
      const next = { ...moving.section };
      for (const [s0, s1, s2] of moving.shape) {
        const step = this.change[at++] * scale;
        next.b0 += s0 * step;
        next.b1 += s1 * step;
        next.b2 += s2 * step;
      }
      next.a1 += this.change[at++] * scale;
      next.a2 += this.change[at++] * scale;
      return { ...moving, section: next };
    });
  }

  /** Weights grow where the errors are large, until they are all alike. */
  reweigh(): void {
    const { errors, weights, count } = this;
    let mean = 0;
    for (let i = 0; i < count; i++) mean += Math.abs(errors[i]) / count;
    let total = 0;
    for (let i = 0; i < count; i++) total += weights[i] *= 0.15 + Math.abs(errors[i]) / mean;
    for (let i = 0; i < count; i++) weights[i] *= count / total;
  }
}

const fit = new Fit();
const isSafe = ({ section: { a1, a2 }, widestPole }: MovingSection) =>
  Math.abs(a2) < widestPole && Math.abs(a1) < widestPole * (1 + a2);

interface Fitted {
  sections: MovingSection[];
  error: number;
}

/** The step, halved until all sections are stable and the whole is not worse by far; null when it never is. */
function nextSections(current: readonly MovingSection[], bestError: number): Fitted | null {
  for (let scale = 1; scale > 0.05; scale /= 2) {
    const sections = fit.moved(current, scale);
    if (!sections.every(isSafe)) continue;
    const error = fit.measure(sections);
    if (error < 3 * bestError) return { sections, error };
  }
  return null;
}

/** The greatest error of sections, dB. */
export function errorDb(sections: readonly Section[], aim: Aim): number {
  fit.begin(aim, 0);
  return fit.measure(sections.map((section) => ({ section, shape: [], widestPole: 1 })));
}

/**
 * @param start stable and near; it is what comes back when nothing better is found
 * @param goodEnoughDb error at which the fit ends
 */
export function refine(
  start: readonly MovingSection[],
  aim: Aim,
  goodEnoughDb: number,
): { sections: Section[]; errorDb: number } {
  fit.begin(
    aim,
    start.reduce((sum, { shape }) => sum + shape.length + 2, 0),
  );
  let best = start;
  let bestError = fit.measure(start);
  let current = start;
  let sinceBetter = 0;
  for (let step = 0; step < STEPS && bestError > goodEnoughDb && sinceBetter < PATIENCE; step++) {
    if (!fit.step(current)) break;
    const next = nextSections(current, bestError);
    if (!next) break;
    current = next.sections;
    sinceBetter = next.error < bestError * 0.98 ? 0 : sinceBetter + 1;
    if (next.error < bestError) [best, bestError] = [next.sections, next.error];
    fit.reweigh();
  }
  return { sections: best.map(({ section }) => section), errorDb: bestError };
}
