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

  /** Each value becomes the greatest up to it. In place, so that nothing has to be handed over frame by frame. */
  run(samples: Float64Array, frames: number): void {
    const { values, times, frames: length } = this;
    const room = values.length;
    let { head, count, time } = this;
    for (let n = 0; n < frames; n++) {
      const value = samples[n];
      time++;
      if (count > 0 && times[head] <= time - length) {
        head = head + 1 === room ? 0 : head + 1;
        count--;
      }
      let last = head + count - 1;
      if (last >= room) last -= room;
      while (count > 0 && values[last] <= value) {
        count--;
        last = last === 0 ? room - 1 : last - 1;
      }
      let at = head + count;
      if (at >= room) at -= room;
      values[at] = value;
      times[at] = time;
      count++;
      samples[n] = values[head];
    }
    this.head = head;
    this.count = count;
    this.time = time;
  }

  reset(): void {
    this.head = this.count = this.time = 0;
  }
}

/** Sizes of a key, the louder side in every frame. @param right null for mono */
export function sizesOf(left: Float64Array, right: Float64Array | null, out: Float64Array, frames: number): void {
  if (!right) for (let n = 0; n < frames; n++) out[n] = Math.abs(left[n]);
  else
    for (let n = 0; n < frames; n++) {
      const first = Math.abs(left[n]);
      const second = Math.abs(right[n]);
      out[n] = first > second ? first : second;
    }
}
