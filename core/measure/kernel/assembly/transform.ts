/** The discrete Fourier transform of the kernels. A complex number is a vector of two 64-bit numbers, its real part first. */
export const COMPLEX: usize = 16;
export const NUMBER: usize = 8;

/** (re, im) to (im, re) */
@inline
export function swapped(value: v128): v128 {
  return v128.shuffle<f64>(value, value, 1, 0);
}

/** value · (cos + i·sin) @param sine (−sin, sin) */
@inline
function turned(value: v128, cosine: v128, sine: v128): v128 {
  return f64x2.add(f64x2.mul(value, cosine), f64x2.mul(swapped(value), sine));
}

@inline
function cosineOf(twiddle: usize): v128 {
  return v128.load64_splat(twiddle);
}

@inline
function sineOf(twiddle: usize): v128 {
  return f64x2.mul(v128.load64_splat(twiddle + NUMBER), f64x2(-1, 1));
}

/**
 * Four numbers, each so many bytes from the other, become four.
 * @param isTurned whether the last three are, by cosines and sines
 */
@inline
function combine(
  from: usize,
  apart: usize,
  to: usize,
  beside: usize,
  isTurned: bool,
  c1: v128,
  s1: v128,
  c2: v128,
  s2: v128,
  c3: v128,
  s3: v128,
): void {
  const a = v128.load(from);
  const b = v128.load(from + apart);
  const c = v128.load(from + 2 * apart);
  const d = v128.load(from + 3 * apart);
  const sum = f64x2.add(a, c);
  const difference = f64x2.sub(a, c);
  const others = f64x2.add(b, d);
  // −i·(b − d)
  const crossed = f64x2.mul(swapped(f64x2.sub(b, d)), f64x2(1, -1));
  const first = f64x2.add(difference, crossed);
  const second = f64x2.sub(sum, others);
  const third = f64x2.sub(difference, crossed);
  v128.store(to, f64x2.add(sum, others));
  v128.store(to + beside, isTurned ? turned(first, c1, s1) : first);
  v128.store(to + 2 * beside, isTurned ? turned(second, c2, s2) : second);
  v128.store(to + 3 * beside, isTurned ? turned(third, c3, s3) : third);
}

/**
 * Discrete Fourier transform, not scaled; Stockham's self-sorting algorithm by fours. Source: C. Van Loan, Computational Frameworks for the Fast
 * Fourier Transform, 1992, 1.7.
 * @param input complex numbers; they are lost
 * @param other room for as many
 * @param twiddles e^(−2πik/size), k from 0
 * @param size a power of two, at least 4
 * @returns where the result lies: one of the two
 */
export function transform(input: usize, other: usize, twiddles: usize, size: i32): usize {
  let x = input;
  let y = other;
  let stride: i32 = 1;
  let length = size;
  for (; length >= 4; length >>= 2, stride <<= 2) {
    const quarter = length >> 2;
    const apart = (<usize>(stride * quarter)) * COMPLEX;
    const beside = (<usize>stride) * COMPLEX;
    // The first ones are not turned.
    const none = f64x2.splat(0);
    for (let from = x, to = y; from < x + beside; from += COMPLEX, to += COMPLEX)
      combine(from, apart, to, beside, false, none, none, none, none, none, none);
    for (let p = 1; p < quarter; p++) {
      const t1 = twiddles + (<usize>(p * stride)) * COMPLEX;
      const t2 = twiddles + (<usize>(2 * p * stride)) * COMPLEX;
      const t3 = twiddles + (<usize>(3 * p * stride)) * COMPLEX;
      const c1 = cosineOf(t1);
      const s1 = sineOf(t1);
      const c2 = cosineOf(t2);
      const s2 = sineOf(t2);
      const c3 = cosineOf(t3);
      const s3 = sineOf(t3);
      let from = x + (<usize>(stride * p)) * COMPLEX;
      let to = y + (<usize>(stride * 4 * p)) * COMPLEX;
      const end = from + beside;
      for (; from < end; from += COMPLEX, to += COMPLEX)
        combine(from, apart, to, beside, true, c1, s1, c2, s2, c3, s3);
    }
    const before = x;
    x = y;
    y = before;
  }
  if (length === 2) {
    const apart = (<usize>stride) * COMPLEX;
    for (let at: usize = 0; at < apart; at += COMPLEX) {
      const a = v128.load(x + at);
      const b = v128.load(x + apart + at);
      v128.store(y + at, f64x2.add(a, b));
      v128.store(y + apart + at, f64x2.sub(a, b));
    }
    return y;
  }
  return x;
}
