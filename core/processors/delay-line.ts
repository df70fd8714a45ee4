/** Delays two sides by a whole number of frames. `process` allocates nothing. */
export class DelayLine {
  private readonly left: Float64Array;
  private readonly right: Float64Array;
  private at = 0;

  /** @param frames 1 or more */
  constructor(readonly frames: number) {
    this.left = new Float64Array(frames);
    this.right = new Float64Array(frames);
  }

  /** In place. @param right null for mono */
  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    for (let n = 0; n < frames; n++) {
      const late = this.left[this.at];
      this.left[this.at] = left[n];
      left[n] = late;
      if (right) {
        const lateRight = this.right[this.at];
        this.right[this.at] = right[n];
        right[n] = lateRight;
      }
      if (++this.at === this.frames) this.at = 0;
    }
  }

  reset(): void {
    this.left.fill(0);
    this.right.fill(0);
  }
}
