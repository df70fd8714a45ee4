/** Modified Bessel function of the first kind, order 0, by its power series. */
function besselI0(x: number): number {
  let [sum, term] = [1, 1];
  for (let k = 1; term > 1e-17 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/**
 * Kaiser's window.
 * Source: J. F. Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", Proc. IEEE ISCAS (1974).
 * @param x −1 to 1, from edge to edge; beyond, the value at the edge
 * @param beta its shape: the greater, the farther down is what it lets through beside
 * @returns 1 in the middle
 */
export const kaiser = (x: number, beta: number): number =>
  besselI0(beta * Math.sqrt(Math.max(0, 1 - x * x))) / besselI0(beta);

/** The sine cardinal, sin πx / πx. */
export const sineCardinal = (x: number): number => (x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x));
