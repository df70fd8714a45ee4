/** How alike left and right are, over what is pushed. Source: K. Pearson's r of the two channels, here about zero as audio is. */
export class CorrelationMeter {
  private left = 0;
  private right = 0;
  private both = 0;

  push(left: ArrayLike<number>, right: ArrayLike<number>): void {
    for (let n = 0; n < left.length; n++) {
      this.left += left[n] * left[n];
      this.right += right[n] * right[n];
      this.both += left[n] * right[n];
    }
  }

  /** +1 for what is the same on both sides, −1 for what is inverted, about 0 for what has nothing in common; null for silence on a side. */
  get correlation(): number | null {
    const size = Math.sqrt(this.left * this.right);
    return size < 1e-12 ? null : Math.min(1, Math.max(-1, this.both / size));
  }
}
