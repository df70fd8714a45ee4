/** So many samples for one. */
export const FACTOR = 8;
/** How many of the sparse samples each filter looks at; the way down has to be steep, since what it lets through folds back. */
const REACH_UP = 40;
const REACH_DOWN = 64;
/** Shares of half the sparse rate in the middle of each filter's slope: images begin beyond it, what folds back begins at it. */
const CORNER_UP = 1;
const CORNER_DOWN = 0.917;
const KAISER_BETA = 9;

function besselI0(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A low-pass as a Kaiser-windowed sinc; the sum of its taps is 1. @param corner share of half the sparse rate */
function lowPass(length: number, corner: number): Float64Array {
  const middle = (length - 1) / 2;
  const taps = Float64Array.from({ length }, (_, n) => {
    const x = (corner * (n - middle)) / FACTOR;
    const sinc = x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x);
    return sinc * besselI0(KAISER_BETA * Math.sqrt(1 - ((n - middle) / (middle + 1)) ** 2));
  });
  const sum = taps.reduce((all, tap) => all + tap, 0);
  return taps.map((tap) => tap / sum);
}

/** Makes up for what the mean of two neighbours takes at the top, cos(ω/2), to the second order. */
function sharpened(taps: Float64Array): Float64Array {
  const at = (n: number) => taps[n] ?? 0;
  return Float64Array.from({ length: taps.length + 2 }, (_, n) => 1.25 * at(n - 1) - 0.125 * (at(n) + at(n - 2)));
}

/** Taps of the way up for each of the dense samples, latest sample first. */
const UP = Array.from({ length: FACTOR }, (_, phase) => {
  const all = lowPass(FACTOR * REACH_UP + 1, CORNER_UP);
  return Float64Array.from({ length: REACH_UP + 1 }, (__, k) => FACTOR * (all[FACTOR * k + phase] ?? 0));
});
const DOWN = sharpened(lowPass(FACTOR * REACH_DOWN, CORNER_DOWN));
const PAST = DOWN.length + FACTOR;

/**
 * Eightfold oversampling of one side by linear-phase filters: {@link up} gives the dense samples, which are changed in place by something
 * that is half a dense sample late, and {@link down} takes them back.
 */
export class Oversampling {
  static readonly latencyFrames = (REACH_UP + REACH_DOWN) / 2;
  private readonly dense = new Float64Array(FACTOR);
  /** Both histories are kept twice, so that a filter reads on without a wrap. */
  private readonly sparsePast = new Float64Array(2 * (REACH_UP + 1));
  private sparseAt = 0;
  private readonly densePast = new Float64Array(2 * PAST);
  private denseAt = 0;

  up(sample: number): Float64Array {
    const { dense, sparsePast } = this;
    const length = REACH_UP + 1;
    this.sparseAt = this.sparseAt === 0 ? length - 1 : this.sparseAt - 1;
    const at = this.sparseAt;
    sparsePast[at] = sparsePast[at + length] = sample;
    for (let phase = 0; phase < FACTOR; phase++) {
      const taps = UP[phase];
      let sum = 0;
      for (let k = 0; k < length; k++) sum += taps[k] * sparsePast[at + k];
      dense[phase] = sum;
    }
    return dense;
  }

  down(): number {
    const { dense, densePast } = this;
    for (let i = 0; i < FACTOR; i++) {
      this.denseAt = this.denseAt === 0 ? PAST - 1 : this.denseAt - 1;
      densePast[this.denseAt] = densePast[this.denseAt + PAST] = dense[i];
    }
    // Both filters and the half sample between them make whole frames where the way down ends at the second of these dense samples.
    const at = this.denseAt + FACTOR - 2;
    let sum = 0;
    for (let n = 0; n < DOWN.length; n++) sum += DOWN[n] * densePast[at + n];
    return sum;
  }

  reset(): void {
    this.sparsePast.fill(0);
    this.densePast.fill(0);
  }
}
