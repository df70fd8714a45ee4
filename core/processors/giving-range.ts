import { fromDb } from './levels';

/** A range of frequencies whose gain moves, as two shelves of the eighth order. Either end may be open. */
export interface GivingRange {
  lowHz: number | null;
  highHz: number | null;
}

/** Dampings of the four sections of a Butterworth filter of the eighth order. */
const DAMPINGS = [1, 3, 5, 7].map((odd) => 2 * Math.cos((odd * Math.PI) / 16));
const ORDER = 2 * DAMPINGS.length;
/** What the ends of the range may lack of the depth in its middle, dB. */
const LESS_AT_ENDS_DB = 1;
/** No shelf lies farther outside the end of its range than this ratio: an octave beside it half a decibel is the most that is changed. */
const FARTHEST = 1.7;
const STEP = 16;

/**
 * How far outside of the range the corners of the shelves lie: so far that its ends have nearly the whole depth. A shelf's gain at the
 * ratio w of its corner is √((w^2N + g²) / (w^2N + 1)).
 */
function cornerRatio(depthDb: number): number {
  if (depthDb <= LESS_AT_ENDS_DB) return 1;
  const whole = fromDb(-depthDb) ** 2;
  const wanted = fromDb(LESS_AT_ENDS_DB - depthDb) ** 2;
  return Math.min(FARTHEST, ((1 - wanted) / (wanted - whole)) ** (1 / (2 * ORDER)));
}

/** The gain that a range has at a frequency while it is at a depth, dB ≤ 0. @param mostDb the depth that it is made for */
export function givingGainDb({ lowHz, highHz }: GivingRange, depthDb: number, mostDb: number, hz: number): number {
  const ratio = cornerRatio(mostDb);
  const whole = fromDb(-depthDb) ** 2;
  const shelf = (w: number) => 10 * Math.log10((w ** (2 * ORDER) + whole) / (w ** (2 * ORDER) + 1));
  if (lowHz === null) return highHz === null ? -depthDb : shelf(hz / (highHz * ratio));
  const above = shelf(lowHz / ratio / hz);
  return highHz === null ? above : above + shelf(hz / (highHz * ratio)) + depthDb;
}

/**
 * The shelves, as mixes of the outputs of a state-variable filter, by the root r of the gain: analogue sections
 * (r²s² + k·r·s + 1) / (s² + k·s + 1) for what lies above a corner, (s² + k·r·s + r²) / (s² + k·s + 1) for what lies below one. Where both
 * ends are shut the latter is divided by r², so that above the upper end everything is back, and below the lower one.
 */
type Shelf = 'above' | 'back' | 'below';
const MOST_CORNER = 0.45;

/** One shelf over both sides. */
class MovingShelf {
  /** Two integrators a section and side. */
  private readonly memory = new Float64Array(4 * DAMPINGS.length);
  private readonly g: number;

  constructor(
    private readonly kind: Shelf,
    cornerHz: number,
    rateHz: number,
  ) {
    this.g = Math.tan(Math.PI * Math.min(MOST_CORNER, cornerHz / rateHz));
  }

  /** Some frames of all sides, along which r goes straight from one value to the next. */
  process(sides: readonly (Float64Array | null)[], at: number, count: number, rFrom: number, rTo: number): void {
    const { memory, kind, g } = this;
    const step = (rTo - rFrom) / count;
    for (let side = 0; side < sides.length; side++) {
      const samples = sides[side];
      if (!samples) continue;
      for (let section = 0; section < DAMPINGS.length; section++) {
        const k = DAMPINGS[section];
        const place = 2 * (side * DAMPINGS.length + section);
        let first = memory[place];
        let second = memory[place + 1];
        const a1 = 1 / (1 + g * (g + k));
        let r = rFrom;
        for (let n = at; n < at + count; n++) {
          r += step;
          const input = samples[n];
          const v3 = input - second;
          const band = a1 * (first + g * v3);
          const low = second + g * band;
          first = 2 * band - first;
          second = 2 * low - second;
          const square = r * r;
          if (kind === 'above') samples[n] = square * input + k * r * (1 - r) * band + (1 - square) * low;
          else if (kind === 'below') samples[n] = input + k * (r - 1) * band + (square - 1) * low;
          else samples[n] = (input + k * (r - 1) * band + (square - 1) * low) / square;
        }
        memory[place] = first;
        memory[place + 1] = second;
      }
    }
  }

  reset(): void {
    this.memory.fill(0);
  }

  get isSound(): boolean {
    return this.memory.every(Number.isFinite);
  }
}

/** Runs a {@link GivingRange} over one or two sides. While its gain is 1 it gives the bits that it is given. */
export class RangeGain {
  private readonly shelves: MovingShelf[] = [];
  private r = 1;

  /** @param range not open at both ends; @param mostDb the greatest depth that will be asked for */
  constructor({ lowHz, highHz }: GivingRange, mostDb: number, rateHz: number) {
    const ratio = cornerRatio(mostDb);
    if (lowHz !== null) this.shelves.push(new MovingShelf('above', lowHz / ratio, rateHz));
    // What would have to come back above what is heard need not.
    if (highHz !== null && (lowHz === null || highHz * ratio < MOST_CORNER * rateHz))
      this.shelves.push(new MovingShelf(lowHz === null ? 'below' : 'back', highHz * ratio, rateHz));
  }

  /** @param gains of the range for each frame, linear, 0 to 1 */
  process(sides: readonly (Float64Array | null)[], gains: Float64Array, frames: number): void {
    for (let at = 0; at < frames; at += STEP) {
      const count = Math.min(STEP, frames - at);
      const gain = gains[at + count - 1];
      const r = gain === 1 ? 1 : gain ** (1 / ORDER);
      for (const shelf of this.shelves) shelf.process(sides, at, count, this.r, r);
      this.r = r;
    }
  }

  reset(): void {
    for (const shelf of this.shelves) shelf.reset();
  }

  get isSound(): boolean {
    return this.shelves.every(({ isSound }) => isSound);
  }
}
