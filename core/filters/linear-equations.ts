/**
 * Solves linear equations by elimination with pivots.
 * @param rows one array for each equation: its coefficients, then its right side; they are used up
 * @param solution takes one value for each unknown
 * @returns false when the system has no single answer
 */
export function solveLinear(
  rows: number[][] | Float64Array[],
  solution: number[] | Float64Array,
  size: number,
): boolean {
  for (let column = 0; column < size; column++) {
    let pivot = column;
    for (let r = column + 1; r < size; r++) if (Math.abs(rows[r][column]) > Math.abs(rows[pivot][column])) pivot = r;
    [rows[column], rows[pivot]] = [rows[pivot], rows[column]];
    if (Math.abs(rows[column][column]) < 1e-18) return false;
    for (let r = column + 1; r < size; r++) {
      const factor = rows[r][column] / rows[column][column];
      for (let k = column; k <= size; k++) rows[r][k] -= factor * rows[column][k];
    }
  }
  for (let r = size - 1; r >= 0; r--) {
    let sum = rows[r][size];
    for (let k = r + 1; k < size; k++) sum -= rows[r][k] * solution[k];
    solution[r] = sum / rows[r][r];
  }
  return true;
}
