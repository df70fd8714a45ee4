/**
 * How alike two channels are. Source: K. Pearson's r, here about zero as audio is.
 * @param left @param right their energies
 * @param both the sum of their products
 * @returns +1 for what is the same on both sides, −1 for what is inverted, about 0 for what has nothing in common; null for silence on a side
 */
export function correlationOf(left: number, right: number, both: number): number | null {
  const size = Math.sqrt(left * right);
  return size < 1e-12 ? null : Math.min(1, Math.max(-1, both / size));
}

/** How alike left and right are, over what is pushed: {@link correlationOf}. */
export class CorrelationMeter {
  private left = 0;
  private right = 0;
  private both = 0;

  push(left: ArrayLike<number>, right: ArrayLike<number>): void {
    let ofLeft = 0;
    let ofRight = 0;
    let ofBoth = 0;
    for (let n = 0; n < left.length; n++) {
      const l = left[n];
      const r = right[n];
      ofLeft += l * l;
      ofRight += r * r;
      ofBoth += l * r;
    }
    this.left += ofLeft;
    this.right += ofRight;
    this.both += ofBoth;
  }

  get correlation(): number | null {
    return correlationOf(this.left, this.right, this.both);
  }
}
