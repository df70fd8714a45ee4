import type { AnalogSection } from './analog';
import { lowPassSections, withGain, type Complex } from './roots';

/**
 * Jacobi's elliptic functions by Landen's transformation, in units of the quarter period.
 * Source: S. Orfanidis, "Lecture Notes on Elliptic Filter Design", 2006.
 */
function landen({ k, complement }: Modulus): number[] {
  const list: number[] = [];
  for (let [modulus, other] = [k, complement]; modulus > 1e-16 && list.length < 16;) {
    modulus = (modulus / (1 + other)) ** 2;
    other = (2 * Math.sqrt(other)) / (1 + other);
    list.push(modulus);
  }
  return list;
}

/** A modulus and its complement, √(1 − k²): near 1 the one cannot be worked out from the other any more. */
interface Modulus {
  k: number;
  complement: number;
}
const complementOf = (value: number) => Math.sqrt((1 - value) * (1 + value));

/** sn(u·K, k) for real u. */
const sne = (u: number, modulus: Modulus) =>
  landen(modulus).reduceRight((w, v) => ((1 + v) * w) / (1 + v * w * w), Math.sin((u * Math.PI) / 2));

/** cd((u − jv)·K, k). */
function cde(u: number, v: number, modulus: Modulus): Complex {
  const [a, b] = [(u * Math.PI) / 2, (v * Math.PI) / 2];
  return landen(modulus).reduceRight(
    (w, step): Complex => {
      const square = { re: w.re * w.re - w.im * w.im, im: 2 * w.re * w.im };
      const below = { re: 1 + step * square.re, im: step * square.im };
      const power = below.re * below.re + below.im * below.im;
      return {
        re: ((1 + step) * (w.re * below.re + w.im * below.im)) / power,
        im: ((1 + step) * (w.im * below.re - w.re * below.im)) / power,
      };
    },
    { re: Math.cos(a) * Math.cosh(b), im: Math.sin(a) * Math.sinh(b) },
  );
}

/** v with sn(jv·K, k) = jy. */
function imaginaryInverse(y: number, modulus: Modulus): number {
  let { k } = modulus;
  let w = y;
  for (const v of landen(modulus)) {
    w = (2 * w) / ((1 + v) * (1 + Math.sqrt(1 + w * w * k * k)));
    k = v;
  }
  return (2 / Math.PI) * Math.asinh(w);
}

/** The selectivity k = edge of the passband over edge of the stopband that an order reaches: the degree equation. */
function selectivity(order: number, { k, complement }: Modulus): Modulus {
  let product = 1;
  for (let i = 1; i <= Math.floor(order / 2); i++)
    product *= sne((2 * i - 1) / order, { k: complement, complement: k });
  const other = complement ** order * product ** 4;
  return { k: complementOf(other), complement: other };
}

/** √(1 − k²) of the narrowest step from passband to stopband: 5·10⁻⁷ of the corner. Narrower ones are lost in the rounding of their coefficients. */
const LEAST_COMPLEMENT = 1e-3;

/**
 * Elliptic low-pass: the steepest for its order, with ripples of `rippleDb` below the corner (the edge of the passband, at `−rippleDb`)
 * and never over `−stopbandDb` beyond the edge of the stopband. Even orders begin at `−rippleDb` at 0 Hz.
 * @param wantedOrder 1 to 16; where ripple and floor nearly meet, a lower one of the same parity gives all the steepness that 64 bits hold
 * @param rippleDb 0.01 to 12 dB
 * @param stopbandDb 10 to 120 dB; at least 1 dB more than the ripple, which is taken where it is less
 */
export function ellipticLowPass(wantedOrder: number, rippleDb: number, stopbandDb: number): AnalogSection[] {
  const passEpsilon = Math.sqrt(10 ** (rippleDb / 10) - 1);
  const stopEpsilon = Math.sqrt(10 ** (Math.max(stopbandDb, rippleDb + 1) / 10) - 1);
  if (wantedOrder === 1) return lowPassSections([{ re: -1 / passEpsilon, im: 0 }]);
  const ratio = passEpsilon / stopEpsilon;
  const k1 = { k: ratio, complement: complementOf(ratio) };
  let order = wantedOrder;
  while (order > 2 && selectivity(order, k1).complement < LEAST_COMPLEMENT) order -= 2;
  const modulus = selectivity(order, k1);
  const v0 = imaginaryInverse(1 / passEpsilon, k1) / order;
  const poles: Complex[] = [];
  const zeros: number[] = [];
  for (let i = 1; i <= Math.floor(order / 2); i++) {
    const u = (2 * i - 1) / order;
    const pole = cde(u, v0, modulus);
    poles.push({ re: -pole.im, im: pole.re });
    zeros.push(1 / (modulus.k * cde(u, 0, modulus).re));
  }
  if (order % 2 === 1) {
    const y = landen(modulus).reduceRight((w, v) => ((1 + v) * w) / (1 - v * w * w), Math.sinh((v0 * Math.PI) / 2));
    poles.push({ re: -y, im: 0 });
  }
  const sections = lowPassSections(poles, zeros);
  return order % 2 === 0 ? withGain(sections, 10 ** (-rippleDb / 20)) : sections;
}
