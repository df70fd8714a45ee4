/**
 * The inner loops of what is measured, for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it): the transform, whose plain
 * twin is the package `fft.js`, and the true peak, whose twin in `true-peak.ts` gives the same numbers to the last bit. A complex number is a
 * vector of two 64-bit numbers, its real part first.
 */
const COMPLEX: usize = 16;
const NUMBER: usize = 8;

/** (re, im) to (im, re) */
@inline
function swapped(value: v128): v128 {
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
 * Discrete Fourier transform, not scaled; Stockham's self-sorting algorithm by fours. Source: C. Van Loan, Computational Frameworks for the Fast
 * Fourier Transform, 1992, 1.7.
 * @param input complex numbers; they are lost
 * @param other room for as many
 * @param twiddles e^(−2πik/size), k from 0
 * @param size a power of two, at least 4
 * @returns where the result lies: one of the two
 */
export function transform(input: usize, other: usize, twiddles: usize, size: i32): usize {
  const turn = f64x2(1, -1);
  let x = input;
  let y = other;
  let stride: i32 = 1;
  let length = size;
  for (; length >= 4; length >>= 2, stride <<= 2) {
    const quarter = length >> 2;
    const apart = (<usize>(stride * quarter)) * COMPLEX;
    const beside = (<usize>stride) * COMPLEX;
    for (let p = 0; p < quarter; p++) {
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
      for (; from < end; from += COMPLEX, to += COMPLEX) {
        const a = v128.load(from);
        const b = v128.load(from + apart);
        const c = v128.load(from + 2 * apart);
        const d = v128.load(from + 3 * apart);
        const sum = f64x2.add(a, c);
        const difference = f64x2.sub(a, c);
        const others = f64x2.add(b, d);
        // −i·(b − d)
        const crossed = f64x2.mul(swapped(f64x2.sub(b, d)), turn);
        v128.store(to, f64x2.add(sum, others));
        v128.store(to + beside, turned(f64x2.add(difference, crossed), c1, s1));
        v128.store(to + 2 * beside, turned(f64x2.sub(sum, others), c2, s2));
        v128.store(to + 3 * beside, turned(f64x2.sub(difference, crossed), c3, s3));
      }
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

/** Multiplies complex numbers by a window of real ones. */
export function windowed(input: usize, window: usize, size: i32): void {
  const end = window + (<usize>size) * NUMBER;
  for (let at = input, w = window; w < end; at += COMPLEX, w += NUMBER)
    v128.store(at, f64x2.mul(v128.load(at), v128.load64_splat(w)));
}

/**
 * What two real signals, one the real and one the imaginary part of what was transformed, have in each bin together, powers added.
 * @param spectrum their transform
 * @param out a number for each bin
 */
export function powers(spectrum: usize, out: usize, size: i32, first: i32, beyond: i32, scale: f64): void {
  for (let k = first; k < beyond; k++) {
    const own = v128.load(spectrum + (<usize>k) * COMPLEX);
    const mirror = v128.load(spectrum + (<usize>((size - k) & (size - 1))) * COMPLEX);
    const sum = f64x2.add(f64x2.mul(own, own), f64x2.mul(mirror, mirror));
    store<f64>(out + (<usize>k) * NUMBER, 0.5 * scale * (f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)));
  }
}

const TAPS: i32 = 24;
const HALF: i32 = TAPS / 2;
const RUN: i32 = 8;

/** Size of what lies between samples. */
@inline
function valueAt(held: usize, taps: usize): f64 {
  let sums = f64x2.mul(v128.load(taps), v128.load(held));
  let others = f64x2.mul(v128.load(taps + 16), v128.load(held + 16));
  for (let i: usize = 32; i < <usize>TAPS * NUMBER; i += 32) {
    sums = f64x2.add(sums, f64x2.mul(v128.load(taps + i), v128.load(held + i)));
    others = f64x2.add(others, f64x2.mul(v128.load(taps + i + 16), v128.load(held + i + 16)));
  }
  sums = f64x2.add(sums, others);
  return Math.abs(f64x2.extract_lane(sums, 0) + f64x2.extract_lane(sums, 1));
}

/**
 * Looks between the samples that have all their neighbours.
 * @param held samples, `filled` of them
 * @param taps of the middle, then of the places beside it
 * @returns the peak so far, or a higher one
 */
export function truePeak(held: usize, filled: i32, taps: usize, peak: f64, mostGain: f64, worthALook: f64): f64 {
  for (let n = TAPS - 1; n < filled; n++) peak = Math.max(peak, Math.abs(load<f64>(held + (<usize>n) * NUMBER)));
  const size = (<usize>TAPS) * NUMBER;
  for (let at = 0; at + TAPS <= filled; at += RUN) {
    const end = Math.min(filled, at + RUN + TAPS - 1) as i32;
    let largest: f64 = 0;
    for (let n = at; n < end; n++) largest = Math.max(largest, Math.abs(load<f64>(held + (<usize>n) * NUMBER)));
    if (largest * mostGain <= peak) continue;
    for (let n = at; n + TAPS <= end; n++) {
      const place = held + (<usize>n) * NUMBER;
      const middle = valueAt(place, taps);
      peak = Math.max(peak, middle);
      const worth = worthALook * peak;
      const before = Math.abs(load<f64>(place + (<usize>(HALF - 1)) * NUMBER));
      const after = Math.abs(load<f64>(place + (<usize>HALF) * NUMBER));
      if (middle < worth && before < worth && after < worth) continue;
      peak = Math.max(peak, valueAt(place, taps + size));
      peak = Math.max(peak, valueAt(place, taps + 2 * size));
    }
  }
  return peak;
}

/**
 * Rows of 32-bit numbers, each of which becomes sums of its neighbours: what `spread` in `core/mix/masking.ts` does with one row, to the last bit.
 * @param row room for a row of 64-bit numbers and one more, which stays 0
 * @param table for each number of a row: where its shares begin in `shares`, how many pairs of them there are, and which number the first belongs to
 * @param shares an even number of them for each, 0 where there is none
 */
export function spreadRows(input: usize, out: usize, rows: i32, length: i32, row: usize, table: usize, shares: usize): void {
  for (let i = 0; i < rows; i++) {
    for (let n = 0; n < length; n += 2)
      v128.store(
        row + (<usize>n) * NUMBER,
        f64x2.promote_low_f32x4(v128.load64_zero(input + (<usize>n) * 4)),
      );
    for (let n = 0; n < length; n++) {
      const entry = table + (<usize>n) * 12;
      let share = shares + (<usize>load<i32>(entry)) * NUMBER;
      const end = share + (<usize>load<i32>(entry, 4)) * COMPLEX;
      let from = row + (<usize>load<i32>(entry, 8)) * NUMBER;
      let sums = f64x2.splat(0);
      for (; share < end; share += COMPLEX, from += COMPLEX)
        sums = f64x2.add(sums, f64x2.mul(v128.load(from), v128.load(share)));
      store<f32>(out + (<usize>n) * 4, <f32>(f64x2.extract_lane(sums, 0) + f64x2.extract_lane(sums, 1)));
    }
    input += (<usize>length) * 4;
    out += (<usize>length) * 4;
  }
}
