/** Levels and times as the processors count them. */

const DB_PER_NEPER = 20 / Math.LN10;
/** What counts as silence, dB. */
export const SILENCE_DB = -200;
const SILENCE = 10 ** (SILENCE_DB / 20);

/** @param value linear, ≥ 0 */
export const toDb = (value: number) => (value > SILENCE ? DB_PER_NEPER * Math.log(value) : SILENCE_DB);
export const fromDb = (db: number) => Math.exp(db / DB_PER_NEPER);

/** What remains of a distance after one frame, where 1 − 1/e of it is gone after a time. */
export const keptPerFrame = (ms: number, rateHz: number) => Math.exp(-1000 / (ms * rateHz));

export const framesOf = (ms: number, rateHz: number) => Math.round((ms * rateHz) / 1000);

/** The greatest of the last so many values; each costs the same, however many they are. */
export class SlidingMaximum {
  private readonly values: Float64Array;
  private readonly times: Float64Array;
  private head = 0;
  private count = 0;
  private time = 0;

  /** @param frames how many values it looks back on, this one included: 1 or more */
  constructor(readonly frames: number) {
    this.values = new Float64Array(frames + 1);
    this.times = new Float64Array(frames + 1);
  }

  push(value: number): number {
    const { values, times, frames } = this;
    const room = values.length;
    this.time++;
    if (this.count > 0 && times[this.head] <= this.time - frames) {
      this.head = this.head + 1 === room ? 0 : this.head + 1;
      this.count--;
    }
    let last = this.head + this.count - 1;
    if (last >= room) last -= room;
    while (this.count > 0 && values[last] <= value) {
      this.count--;
      last = last === 0 ? room - 1 : last - 1;
    }
    let at = this.head + this.count;
    if (at >= room) at -= room;
    values[at] = value;
    times[at] = this.time;
    this.count++;
    return values[this.head];
  }

  reset(): void {
    this.head = this.count = this.time = 0;
  }
}
