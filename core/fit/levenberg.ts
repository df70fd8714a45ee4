import { solveLinear } from '../filters';

/**
 * Least squares by Gauss and Newton with Levenberg's and Marquardt's damping. Source: D. W. Marquardt, J. SIAM 11 (1963).
 * @param start values to begin with
 * @param steps by which each value is moved to see what that does
 * @param residuals what is left with some values; its length does not change
 * @returns the values with the least sum of squares that was found
 */
export function leastSquares(
  start: readonly number[],
  steps: readonly number[],
  residuals: (values: readonly number[]) => Float64Array,
  { rounds = 16, enough = 1e-8 } = {},
): { values: number[]; sum: number } {
  const sumOf = (left: Float64Array) => left.reduce((sum, value) => sum + value * value, 0);
  let values = [...start];
  let left = residuals(values);
  let sum = sumOf(left);
  let damping = 1e-2;
  for (let round = 0; round < rounds && sum > enough; round++) {
    const columns = values.map((value, k) => {
      const moved = residuals(values.map((other, i) => (i === k ? value + steps[k] : other)));
      return moved.map((after, i) => (after - left[i]) / steps[k]);
    });
    let isBetter = false;
    for (let attempt = 0; attempt < 5 && !isBetter; attempt++) {
      const rows = columns.map((first, r) => [
        ...columns.map((second, c) => {
          const dot = first.reduce((total, value, i) => total + value * second[i], 0);
          return r === c ? dot * (1 + damping) + 1e-12 : dot;
        }),
        -first.reduce((total, value, i) => total + value * left[i], 0),
      ]);
      const change = new Array<number>(values.length).fill(0);
      if (!solveLinear(rows, change, values.length) || !change.every(Number.isFinite)) break;
      const next = values.map((value, i) => value + change[i]);
      const nextLeft = residuals(next);
      const nextSum = sumOf(nextLeft);
      isBetter = nextSum < sum;
      if (isBetter) {
        const gained = sum - nextSum;
        [values, left, sum] = [next, nextLeft, nextSum];
        damping /= 6;
        if (gained < 1e-6 * sum) return { values, sum };
      } else damping *= 8;
    }
    if (!isBetter) break;
  }
  return { values, sum };
}
