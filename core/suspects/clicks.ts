import { fillFrom, measureKernel, type Predictor } from '../measure';
import { percentile } from './frames';
import { toldMoments, type FoundSuspect } from './suspect';

/** Samples are foretold from so many before them (linear prediction, by the autocorrelation of a block; Levinson–Durbin). */
const ORDER = 24;
const BLOCK = 8192;
/** What lies so near to the ends of a block, seconds, is looked at with the next one, which begins twice as much earlier. */
const MARGIN_SECONDS = 0.0125;
/** A click is that far beyond what is usually not foretold around it, by ratio, and so far over what comes 1 to 5 ms before and after, dB. */
const LEAST_RATIO = 14;
const ISOLATED_DB = 27;
/** It is no longer than this, and what is played goes on as loud as before, dB: a stroke does neither. Seconds. */
const LONGEST = 0.0012;
const AFTERWARDS = 0.004;
const LEVEL_OVER = 0.01;
const MOST_RISE_DB = 3;
/** What is softer is not heard. */
const LEAST_HEIGHT = 1e-4;
/** Where no sample bends its line so much more than the others, there is no click. */
const LEAST_BEND = 6;
const FEWEST = 3;
/** More than so many in a second are what the sound is made of, as the edges of a sawtooth. */
const MOST_PER_SECOND = 2.5;

interface Click {
  seconds: number;
  overDb: number;
}

/** Foretells without the compiled kernel: its reference. */
export function plainPredictor(window: Float64Array, order: number): Predictor {
  const { length } = window;
  const samples = new Float64Array(length);
  const left = new Float64Array(length);
  return {
    samples,
    autocorrelation: () => {
      const windowed = samples.map((value, n) => value * window[n]);
      return Float64Array.from({ length: order + 1 }, (_, lag) => {
        let sum = 0;
        for (let n = lag; n < length; n++) sum += windowed[n] * windowed[n - lag];
        return sum;
      });
    },
    residual: (factors) => {
      for (let n = order; n < length; n++) {
        let value = samples[n];
        for (let k = 1; k <= order; k++) value += factors[k] * samples[n - k];
        left[n] = value;
      }
      return left;
    },
  };
}

const WINDOW = Float64Array.from({ length: BLOCK }, (_, n) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (n + 0.5)) / BLOCK));

let ofThisThread: Predictor | undefined;
const threadPredictor = () =>
  (ofThisThread ??= measureKernel()?.predictor(WINDOW, ORDER) ?? plainPredictor(WINDOW, ORDER));

/** What is left of a block when every sample is foretold from those before it; valid until the next one. */
function unforeseen(block: Float64Array): Float64Array {
  const { samples, autocorrelation, residual } = threadPredictor();
  samples.set(block);
  return residual(levinson(autocorrelation()));
}

/** Factors of the prediction error filter, the first 1, of an autocorrelation. */
function levinson(alike: Float64Array): Float64Array {
  const factors = new Float64Array(alike.length);
  factors[0] = 1;
  // A little noise keeps it from foretelling what is only rounding.
  let error = alike[0] * (1 + 1e-9) + 1e-12;
  for (let order = 1; order < alike.length; order++) {
    let sum = alike[order];
    for (let k = 1; k < order; k++) sum += factors[k] * alike[order - k];
    const reflection = -sum / error;
    for (let k = 1; k <= order >> 1; k++) {
      const [first, second] = [factors[k], factors[order - k]];
      factors[k] = first + reflection * second;
      factors[order - k] = second + reflection * first;
    }
    factors[order] = reflection;
    error *= 1 - reflection * reflection;
  }
  return factors;
}

const powerOf = (samples: Float64Array, from: number, to: number) => {
  let sum = 0;
  for (let n = from; n < to; n++) sum += samples[n] * samples[n];
  return sum / (to - from);
};

/** Finds clicks: single samples, or a few, that do not follow from what is around them (S. V. Vaseghi, "Advanced Digital Signal Processing and Noise Reduction", impulsive noise). */
export class ClickFinder {
  private readonly block = new Float64Array(BLOCK);
  private readonly margin: number;
  private filled = 0;
  private passed = 0;
  private readonly clicks: Click[] = [];

  constructor(private readonly rateHz: number) {
    this.margin = Math.round(MARGIN_SECONDS * rateHz);
  }

  push(samples: readonly ArrayLike<number>[]): void {
    const [left, right] = samples;
    for (let at = 0; at < left.length;) {
      const run = Math.min(left.length - at, BLOCK - this.filled);
      const room = this.block.subarray(this.filled, this.filled + run);
      fillFrom(room, left, at, run);
      if (right) for (let n = 0; n < run; n++) room[n] = (room[n] + right[at + n]) / 2;
      at += run;
      this.filled += run;
      if (this.filled < BLOCK) return;
      this.look();
      this.filled = 2 * this.margin;
      this.block.copyWithin(0, BLOCK - this.filled);
      this.passed += BLOCK - this.filled;
    }
  }

  private look(): void {
    const { block, rateHz, margin } = this;
    if (!mayClick(block)) return;
    const left = unforeseen(block);
    const { usual, most } = heightsOf(left);
    const least = LEAST_RATIO * usual;
    if (most < least || most < LEAST_HEIGHT) return;
    const longest = Math.round(LONGEST * rateHz);
    for (let n = margin; n < BLOCK - margin; n++) {
      if (Math.abs(left[n]) < least || Math.abs(left[n]) < LEAST_HEIGHT) continue;
      let end = n + 1;
      for (let k = n + 1; k < n + longest; k++) if (Math.abs(left[k]) >= least) end = k + 1;
      const click = this.clickAt(left, n, end);
      if (click !== null) this.clicks.push({ seconds: (this.passed + n) / rateHz, overDb: click });
      n = end + longest;
    }
  }

  /** How far it stands over what comes before and after; null where it is none. */
  private clickAt(left: Float64Array, from: number, to: number): number | null {
    const { block, rateHz } = this;
    const [near, far, level] = [LONGEST, LONGEST + AFTERWARDS, LEVEL_OVER].map((seconds) =>
      Math.round(seconds * rateHz),
    );
    let height = 0;
    for (let n = from; n < to; n++) height = Math.max(height, left[n] * left[n]);
    const around = Math.max(
      powerOf(left, Math.max(ORDER, from - far), from - ORDER),
      powerOf(left, from + near, from + far),
    );
    const overDb = 10 * Math.log10(height / (around + 1e-18));
    const [before, after] = [
      powerOf(block, from - 8 - level, from - 8),
      powerOf(block, from + near, from + near + level),
    ];
    const rises = Math.abs(10 * Math.log10((after + 1e-12) / (before + 1e-12))) > MOST_RISE_DB;
    return overDb < ISOLATED_DB || rises ? null : overDb;
  }

  finish(): FoundSuspect[] {
    const { clicks } = this;
    const seconds = (this.passed + this.filled) / this.rateHz;
    if (clicks.length < FEWEST || clicks.length > MOST_PER_SECOND * seconds) return [];
    const prominenceDb = percentile(
      clicks.map(({ overDb }) => overDb).sort((a, b) => a - b),
      0.5,
    );
    return [
      {
        kind: 'clicks',
        frequencyHz: 6000,
        lowHz: 2000,
        highHz: 18000,
        prominenceDb,
        timeShare: Math.min(1, (clicks.length * LONGEST) / seconds),
        sureness: Math.min(0.95, 0.4 + (prominenceDb - ISOLATED_DB) / 40 + Math.min(0.2, clicks.length / 50)),
        ...toldMoments(clicks.map((click) => ({ seconds: click.seconds, weight: click.overDb }))),
      },
    ];
  }
}

/** False where nothing bends far more than usually: that is told at once. */
function mayClick(block: Float64Array): boolean {
  let sum = 0;
  let most = 0;
  let slope = block[1] - block[0];
  for (let n = 2; n < BLOCK; n++) {
    const next = block[n] - block[n - 1];
    const bend = Math.abs(next - slope);
    slope = next;
    sum += bend;
    if (bend > most) most = bend;
  }
  return most > (LEAST_BEND * sum) / BLOCK && most > LEAST_HEIGHT;
}

/** What is usually left, by the middle one of the means of short pieces, and the most that is. */
function heightsOf(left: Float64Array): { usual: number; most: number } {
  const piece = 128;
  let most = 0;
  const means = Array.from({ length: BLOCK / piece }, (_, i) => {
    let sum = 0;
    for (let n = i * piece; n < (i + 1) * piece; n++) {
      const height = Math.abs(left[n]);
      sum += height;
      if (height > most) most = height;
    }
    return sum / piece;
  });
  const usual = percentile(
    means.sort((a, b) => a - b),
    0.5,
  );
  return { usual, most };
}
