import type { AnalogSection } from './analog';
import { lowPassSections, type Complex } from './roots';

/**
 * θ_n(s) and its derivative, the reverse Bessel polynomial, by θ_n = (2n−1)·θ_{n−1} + s²·θ_{n−2}, θ_0 = 1, θ_1 = s + 1.
 * Source: W. Thomson, "Delay Networks having Maximally Flat Frequency Characteristics", Proc. IEE, 1949.
 */
function besselPolynomial(order: number, s: Complex): { value: Complex; slope: Complex } {
  const square = { re: s.re * s.re - s.im * s.im, im: 2 * s.re * s.im };
  let [before, now] = [
    { re: 1, im: 0 },
    { re: s.re + 1, im: s.im },
  ];
  let [slopeBefore, slopeNow] = [
    { re: 0, im: 0 },
    { re: 1, im: 0 },
  ];
  for (let n = 2; n <= order; n++) {
    const k = 2 * n - 1;
    const next = {
      re: k * now.re + square.re * before.re - square.im * before.im,
      im: k * now.im + square.re * before.im + square.im * before.re,
    };
    const slope = {
      re:
        k * slopeNow.re +
        square.re * slopeBefore.re -
        square.im * slopeBefore.im +
        2 * (s.re * before.re - s.im * before.im),
      im:
        k * slopeNow.im +
        square.re * slopeBefore.im +
        square.im * slopeBefore.re +
        2 * (s.re * before.im + s.im * before.re),
    };
    [before, now, slopeBefore, slopeNow] = [now, next, slopeNow, slope];
  }
  return { value: now, slope: slopeNow };
}

const divide = (a: Complex, b: Complex): Complex => {
  const power = b.re * b.re + b.im * b.im;
  return { re: (a.re * b.re + a.im * b.im) / power, im: (a.im * b.re - a.re * b.im) / power };
};

/** All roots at once. Source: O. Aberth, Mathematics of Computation, 1973. */
function besselRoots(order: number): Complex[] {
  const roots = Array.from({ length: order }, (_, k): Complex => {
    const angle = Math.PI / 2 + (Math.PI * (k + 0.5)) / order;
    return { re: 0.9 * order * Math.cos(angle) - 0.3, im: 0.9 * order * Math.sin(angle) };
  });
  for (let step = 0; step < 200; step++) {
    let moved = 0;
    for (let i = 0; i < order; i++) {
      const { value, slope } = besselPolynomial(order, roots[i]);
      const newton = divide(value, slope);
      const push = { re: 0, im: 0 };
      roots.forEach((other, j) => {
        if (j === i) return;
        const away = divide({ re: 1, im: 0 }, { re: roots[i].re - other.re, im: roots[i].im - other.im });
        push.re += away.re;
        push.im += away.im;
      });
      const below = {
        re: 1 - (newton.re * push.re - newton.im * push.im),
        im: -(newton.re * push.im + newton.im * push.re),
      };
      const change = divide(newton, below);
      roots[i] = { re: roots[i].re - change.re, im: roots[i].im - change.im };
      moved = Math.max(moved, Math.hypot(change.re, change.im));
    }
    if (moved < 1e-15 * order) break;
  }
  return roots;
}

const known = new Map<number, AnalogSection[]>();

/**
 * Bessel low-pass: the delay is as flat as can be, so that transients keep their shape. −3.01 dB at the corner.
 * @param order 1 to 16
 */
export function besselLowPass(order: number): AnalogSection[] {
  const kept = known.get(order);
  if (kept) return kept;
  const roots = besselRoots(order);
  const lossAt = (omega: number) =>
    roots.reduce((power, { re, im }) => power * ((re * re + (omega - im) ** 2) / (re * re + im * im)), 1);
  let [low, high] = [0.1, 10 * order];
  for (let i = 0; i < 200; i++) {
    const middle = Math.sqrt(low * high);
    if (lossAt(middle) < 2) low = middle;
    else high = middle;
  }
  const upper = roots
    .filter(({ im }) => im > -1e-9)
    .map(({ re, im }): Complex => ({ re: re / low, im: Math.abs(im) < 1e-9 ? 0 : im / low }));
  const sections = lowPassSections(upper);
  known.set(order, sections);
  return sections;
}
