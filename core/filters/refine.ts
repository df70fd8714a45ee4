import { analogPower, type AnalogSection } from './analog';
import type { Section } from './section';

/**
 * Brings a digital section nearer to its analog prototype: an equal-ripple fit of the level in decibels, from a section that is near
 * already. Gauss and Newton's step on the logarithm of the squared magnitude, with weights that grow where the error is large.
 * Sources: C. Lawson, 1961 (weights for the least greatest error); K. Levenberg, Quart. Appl. Math., 1944 (damping).
 *
 * `shape` says which numerators are allowed, one row per free number: so a zero at 0 Hz or on the unit circle stays where it is.
 */
export type NumeratorShape = readonly (readonly [number, number, number])[];

const POINTS = 36;
const PEAK_POINTS = 5;
const LOWEST_HZ = 20;
const STEPS = 20;
/** So many steps in a row may bring nothing. */
const PATIENCE = 4;
const AUDIBLE_TOP_HZ = 20000;
/** Below this error there is nothing to gain, dB. */
const GOOD_ENOUGH_DB = 0.004;
/** What lies deeper than this is not followed: nobody hears it, and a zero would draw the whole fit to itself. */
const DEEPEST_DB = -45;

/** 0 Hz, the audible range (half of the points even on the logarithmic axis, half on the linear one), and a narrow peak's surroundings. */
function fitFrequencies(analog: AnalogSection, frequencyHz: number, rateHz: number): number[] {
  const topHz = Math.min(AUDIBLE_TOP_HZ, rateHz * 0.48);
  const bottomHz = Math.min(LOWEST_HZ, frequencyHz / 16);
  const list = [0];
  for (let i = 0; i < POINTS / 2; i++) {
    const share = i / (POINTS / 2 - 1);
    list.push(bottomHz * (topHz / bottomHz) ** share, bottomHz + (topHz - bottomHz) * share);
  }
  const [d0, d1, d2] = analog.denominator;
  if (d2 === 0) return list;
  const peakHz = frequencyHz * Math.sqrt(d0 / d2);
  const halfWidth = Math.min(1, d1 / Math.sqrt(d0 * d2));
  for (let k = -PEAK_POINTS; k <= PEAK_POINTS; k++) {
    const hz = peakHz * (1 + halfWidth) ** ((1.6 * k) / PEAK_POINTS);
    if (hz < topHz) list.push(hz);
  }
  return list;
}

const MOST = POINTS + 2 * PEAK_POINTS + 4;
const UNKNOWNS = 5;
const PER_NEPER = 10 / Math.LN10;

/**
 * The fit of one section: buffers that are used again for every section, so that a drag makes no garbage. Runs on one thread at a
 * time and never calls itself.
 */
class Fit {
  private count = 0;
  private readonly cos = new Float64Array(MOST);
  private readonly cos2 = new Float64Array(MOST);
  private readonly levelsDb = new Float64Array(MOST);
  private readonly errors = new Float64Array(MOST);
  private readonly weights = new Float64Array(MOST);
  private readonly slopes = new Float64Array(UNKNOWNS);
  private readonly rows = Array.from({ length: UNKNOWNS }, () => new Float64Array(UNKNOWNS + 1));
  private readonly change = new Float64Array(UNKNOWNS);

  begin(analog: AnalogSection, frequencyHz: number, rateHz: number): void {
    this.count = 0;
    for (const hz of fitFrequencies(analog, frequencyHz, rateHz)) {
      const levelDb = 10 * Math.log10(analogPower(analog, hz / frequencyHz));
      if (levelDb < DEEPEST_DB) continue;
      const omega = (2 * Math.PI * hz) / rateHz;
      this.cos[this.count] = Math.cos(omega);
      this.cos2[this.count] = Math.cos(2 * omega);
      this.levelsDb[this.count] = levelDb;
      this.weights[this.count++] = 1;
    }
  }

  /** The greatest error, dB; the errors are kept for the next step. */
  measure({ b0, b1, b2, a1, a2 }: Section): number {
    const { cos, cos2, levelsDb, errors } = this;
    // |c0 + c1 z⁻¹ + c2 z⁻²|² = c0² + c1² + c2² + 2·c1·(c0 + c2)·cos ω + 2·c0·c2·cos 2ω
    const [u, u1, u2] = [b0 * b0 + b1 * b1 + b2 * b2, 2 * b1 * (b0 + b2), 2 * b0 * b2];
    const [d, d1, d2] = [1 + a1 * a1 + a2 * a2, 2 * a1 * (1 + a2), 2 * a2];
    let most = 0;
    for (let i = 0; i < this.count; i++) {
      const up = Math.max(1e-30, u + u1 * cos[i] + u2 * cos2[i]);
      const down = Math.max(1e-30, d + d1 * cos[i] + d2 * cos2[i]);
      errors[i] = PER_NEPER * Math.log(up / down) - levelsDb[i];
      most = Math.max(most, Math.abs(errors[i]));
    }
    return most;
  }

  /** Gauss and Newton's step from a section whose errors have just been measured; false when there is none. */
  step({ b0, b1, b2, a1, a2 }: Section, shape: NumeratorShape): boolean {
    const { cos, cos2, errors, weights, slopes, rows } = this;
    const size = shape.length + 2;
    for (let r = 0; r < size; r++) rows[r].fill(0);
    for (let i = 0; i < this.count; i++) {
      const [u0, u1, u2] = [b0 + b1 * cos[i] + b2 * cos2[i], b1 + (b0 + b2) * cos[i], b2 + b1 * cos[i] + b0 * cos2[i]];
      const [d0, d1, d2] = [1 + a1 * cos[i] + a2 * cos2[i], a1 + (1 + a2) * cos[i], a2 + a1 * cos[i] + cos2[i]];
      const up = (2 * PER_NEPER) / Math.max(1e-30, b0 * u0 + b1 * u1 + b2 * u2);
      const down = (-2 * PER_NEPER) / Math.max(1e-30, d0 + a1 * d1 + a2 * d2);
      for (let k = 0; k < shape.length; k++) slopes[k] = up * (shape[k][0] * u0 + shape[k][1] * u1 + shape[k][2] * u2);
      slopes[shape.length] = down * d1;
      slopes[shape.length + 1] = down * d2;
      for (let r = 0; r < size; r++) {
        const weighted = weights[i] * slopes[r];
        for (let c = 0; c < size; c++) rows[r][c] += weighted * slopes[c];
        rows[r][size] -= weighted * errors[i];
      }
    }
    for (let r = 0; r < size; r++) rows[r][r] *= 1 + 1e-6;
    return this.solve(size);
  }

  /** Elimination with pivots; false when the system has no single answer. */
  private solve(size: number): boolean {
    const { rows, change } = this;
    for (let column = 0; column < size; column++) {
      let pivot = column;
      for (let r = column + 1; r < size; r++) if (Math.abs(rows[r][column]) > Math.abs(rows[pivot][column])) pivot = r;
      [rows[column], rows[pivot]] = [rows[pivot], rows[column]];
      if (Math.abs(rows[column][column]) < 1e-18) return false;
      for (let r = column + 1; r < size; r++) {
        const factor = rows[r][column] / rows[column][column];
        for (let k = column; k <= size; k++) rows[r][k] -= factor * rows[column][k];
      }
    }
    for (let r = size - 1; r >= 0; r--) {
      let sum = rows[r][size];
      for (let k = r + 1; k < size; k++) sum -= rows[r][k] * change[k];
      change[r] = sum / rows[r][r];
    }
    return true;
  }

  moved(section: Section, shape: NumeratorShape, scale: number): Section {
    const next = { ...section };
    shape.forEach(([s0, s1, s2], k) => {
      next.b0 += s0 * this.change[k] * scale;
      next.b1 += s1 * this.change[k] * scale;
      next.b2 += s2 * this.change[k] * scale;
    });
    next.a1 += this.change[shape.length] * scale;
    next.a2 += this.change[shape.length + 1] * scale;
    return next;
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
const isSafe = ({ a1, a2 }: Section) => Math.abs(a2) < 0.99999 && Math.abs(a1) < 0.99999 * (1 + a2);

/** The step, halved until the section is stable and not worse by far; null when it never is. */
function nextSection(
  current: Section,
  shape: NumeratorShape,
  bestError: number,
): { section: Section; error: number } | null {
  for (let scale = 1; scale > 0.05; scale /= 2) {
    const section = fit.moved(current, shape, scale);
    if (!isSafe(section)) continue;
    const error = fit.measure(section);
    if (error < 3 * bestError) return { section, error };
  }
  return null;
}

/**
 * @param start stable and near; it is what comes back when nothing better is found
 * @param shape which numerators are allowed
 */
export function refineSection(
  start: Section,
  analog: AnalogSection,
  frequencyHz: number,
  rateHz: number,
  shape: NumeratorShape,
): Section {
  fit.begin(analog, frequencyHz, rateHz);
  let best = start;
  let bestError = fit.measure(start);
  let current = start;
  let sinceBetter = 0;
  for (let step = 0; step < STEPS && bestError > GOOD_ENOUGH_DB && sinceBetter < PATIENCE; step++) {
    if (!fit.step(current, shape)) break;
    const next = nextSection(current, shape, bestError);
    if (!next) break;
    current = next.section;
    sinceBetter = next.error < bestError * 0.98 ? 0 : sinceBetter + 1;
    if (next.error < bestError) [best, bestError] = [next.section, next.error];
    fit.reweigh();
  }
  return best;
}
