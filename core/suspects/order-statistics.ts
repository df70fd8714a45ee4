/** The value below which a share of some sorted values lies, between two where it must be; NaN for none. */
export function quantile(sorted: ArrayLike<number>, share: number): number {
  const at = share * (sorted.length - 1);
  const below = Math.floor(at);
  if (sorted.length === 0) return NaN;
  const next = sorted[Math.min(sorted.length - 1, below + 1)];
  return sorted[below] + (at - below) * (next - sorted[below]);
}

/**
 * The middle value of each value's neighbours; the ends are thought to go on.
 * @param reach neighbours to either side
 */
export function runningMedian(values: ArrayLike<number>, reach: number, out: Float64Array): void {
  const count = values.length;
  const width = 2 * reach + 1;
  const at = (i: number) => values[Math.max(0, Math.min(count - 1, i))];
  const sorted = new Float64Array(width);
  for (let i = 0; i < width; i++) sorted[i] = at(i - reach);
  sorted.sort();
  const placeOf = (value: number) => {
    let [low, high] = [0, width];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle] < value) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  for (let i = 0; i < count; i++) {
    out[i] = sorted[reach];
    // What comes takes the place of what goes, and moves from there to its own.
    const come = at(i + reach + 1);
    let place = placeOf(at(i - reach));
    while (place + 1 < width && sorted[place + 1] < come) sorted[place] = sorted[++place];
    while (place > 0 && sorted[place - 1] > come) sorted[place] = sorted[--place];
    sorted[place] = come;
  }
}
