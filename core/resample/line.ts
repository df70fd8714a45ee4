/** Samples that wait for those that follow them. */
export class Line {
  private room: Float64Array;

  /** @param length zeros that it begins with */
  constructor(public length: number) {
    this.room = new Float64Array(Math.max(4096, 2 * length));
  }

  /** Those that are there; valid until some are put or dropped. */
  get samples(): Float64Array {
    return this.room.subarray(0, this.length);
  }

  put(samples: ArrayLike<number>): void {
    this.widen(samples.length);
    this.room.set(samples, this.length);
    this.length += samples.length;
  }

  /** Puts every second one. @param from 0 or 1 */
  putEvery(pairs: Float64Array, from: 0 | 1): void {
    const count = pairs.length / 2;
    this.widen(count);
    const { room, length } = this;
    for (let n = 0; n < count; n++) room[length + n] = pairs[2 * n + from];
    this.length += count;
  }

  /** Lets go of the first ones. */
  drop(count: number): void {
    this.room.copyWithin(0, count, this.length);
    this.length -= count;
  }

  private widen(count: number): void {
    if (this.length + count <= this.room.length) return;
    const wider = new Float64Array(2 * (this.length + count));
    wider.set(this.samples);
    this.room = wider;
  }
}
