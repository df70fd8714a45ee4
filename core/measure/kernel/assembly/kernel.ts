/**
 * The inner loops of what is measured, for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it): the transform, whose plain
 * twin is the package `fft.js`, and the true peak, whose twin in `true-peak.ts` gives the same numbers to the last bit. A complex number is a
 * vector of two 64-bit numbers, its real part first.
 */
import { COMPLEX, NUMBER, swapped } from './transform';

export { transform } from './transform';

/** Multiplies complex numbers by a window of real ones. */
export function windowed(input: usize, window: usize, size: i32): void {
  const end = window + (<usize>size) * NUMBER;
  for (let at = input, w = window; w < end; at += COMPLEX, w += NUMBER)
    v128.store(at, f64x2.mul(v128.load(at), v128.load64_splat(w)));
}

/**
 * Windows of two real signals become the real and the imaginary parts of complex numbers.
 * @param signals a window of the one, then of the other
 * @param size an even number
 */
export function paired(signals: usize, window: usize, out: usize, size: i32): void {
  const apart = (<usize>size) * NUMBER;
  const end = signals + apart;
  for (let at = signals; at < end; at += 16, window += 16, out += 2 * COMPLEX) {
    const share = v128.load(window);
    const first = f64x2.mul(v128.load(at), share);
    const second = f64x2.mul(v128.load(at + apart), share);
    v128.store(out, v128.shuffle<f64>(first, second, 0, 2));
    v128.store(out, v128.shuffle<f64>(first, second, 1, 3), COMPLEX);
  }
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

/**
 * The powers of two real signals in each bin.
 * @param spectrum the transform of one as real and the other as imaginary part
 * @param out `beyond` numbers of the real one, then of the other
 */
export function pairPowers(spectrum: usize, out: usize, size: i32, beyond: i32, scale: f64): void {
  const turn = f64x2(1, -1);
  const share = f64x2.splat(0.25 * scale);
  const row = (<usize>beyond) * NUMBER;
  for (let k = 0; k < beyond; k++, out += NUMBER) {
    const own = v128.load(spectrum + (<usize>k) * COMPLEX);
    const mirror = f64x2.mul(v128.load(spectrum + (<usize>((size - k) & (size - 1))) * COMPLEX), turn);
    // The real one is the even part of the spectrum, the other the odd one.
    const even = f64x2.add(own, mirror);
    const odd = f64x2.sub(own, mirror);
    const squares = f64x2.mul(even, even);
    const others = f64x2.mul(odd, odd);
    const sums = f64x2.mul(
      share,
      f64x2.add(v128.shuffle<f64>(squares, others, 0, 2), v128.shuffle<f64>(squares, others, 1, 3)),
    );
    v128.store64_lane(out, sums, 0);
    v128.store64_lane(out + row, sums, 1);
  }
}

/**
 * The powers of two real signals in each bin, and the first's spectrum times the conjugate of the second's; all fourfold.
 * @param spectrum the transform of one as real and the other as imaginary part
 * @param out those of the real one, of the other, and the cross-spectrum's real and imaginary part: four times `size / 2 + 1` numbers
 */
export function crossed(spectrum: usize, out: usize, size: i32): void {
  const row = (<usize>(size / 2 + 1)) * NUMBER;
  for (let k = 0; k <= size / 2; k++) {
    const own = spectrum + (<usize>k) * COMPLEX;
    const mirror = spectrum + (<usize>((size - k) & (size - 1))) * COMPLEX;
    const re = load<f64>(own);
    const im = load<f64>(own + NUMBER);
    const reBack = load<f64>(mirror);
    const imBack = load<f64>(mirror + NUMBER);
    // The real one is the even part of the spectrum, the other the odd one.
    const lr = re + reBack;
    const li = im - imBack;
    const rr = im + imBack;
    const ri = reBack - re;
    const at = out + (<usize>k) * NUMBER;
    store<f64>(at, lr * lr + li * li);
    store<f64>(at + row, rr * rr + ri * ri);
    store<f64>(at + 2 * row, lr * rr + li * ri);
    store<f64>(at + 3 * row, li * rr - lr * ri);
  }
}

const TAPS: i32 = 24;
const HALF: i32 = TAPS / 2;
const RUN: i32 = 8;
/** Places that are passed over together where all around them is soft. */
const STRETCH: i32 = 128;

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

/** The larger of two numbers in each half. */
@inline
function larger(a: v128, b: v128): v128 {
  return f64x2.pmax(a, b);
}

@inline
function largest(pair: v128): f64 {
  return Math.max(f64x2.extract_lane(pair, 0), f64x2.extract_lane(pair, 1));
}

/** The largest bend, |x₋₁ − 2x + x₊₁|, of {@link RUN} samples from a place on. */
@inline
function bendFrom(place: usize): f64 {
  let most = f64x2.splat(0);
  for (let n: usize = 0; n < <usize>RUN * NUMBER; n += 16) {
    const here = v128.load(place + n);
    const bend = f64x2.sub(f64x2.add(v128.load(place + n - NUMBER), v128.load(place + n + NUMBER)), f64x2.add(here, here));
    most = larger(f64x2.abs(bend), most);
  }
  return largest(most);
}

/** The largest of some samples, whatever their sign: of four pairs at a time, since each waits for the one before. */
@inline
function largestOf(begin: usize, beyond: usize): f64 {
  let all = f64x2.splat(0);
  let second = all;
  let third = all;
  let fourth = all;
  let place = begin;
  for (; place + 64 <= beyond; place += 64) {
    all = larger(f64x2.abs(v128.load(place)), all);
    second = larger(f64x2.abs(v128.load(place, 16)), second);
    third = larger(f64x2.abs(v128.load(place, 32)), third);
    fourth = larger(f64x2.abs(v128.load(place, 48)), fourth);
  }
  all = larger(larger(all, second), larger(third, fourth));
  for (; place + 16 <= beyond; place += 16) all = larger(f64x2.abs(v128.load(place)), all);
  if (place < beyond) all = larger(f64x2.abs(v128.load64_zero(place)), all);
  return largest(all);
}

/**
 * Looks between the samples that have all their neighbours, but where no value between them can be larger than the peak so far.
 * @param held samples, `filled` of them, and twice {@link RUN} numbers of any kind after them
 * @param taps of the middle, then of the places beside it
 * @param most no value between samples is larger than the largest of those that take part in it times `most`
 * @param reach @param bend no value between two samples is larger than the larger of them times `reach`, and the largest bend among those that take part in
 *   it times `bend`
 * @returns the peak so far, or a higher one
 */
export function truePeak(
  held: usize,
  filled: i32,
  taps: usize,
  peak: f64,
  most: f64,
  reach: f64,
  bend: f64,
  worthALook: f64,
): f64 {
  const beyond = held + (<usize>filled) * NUMBER;
  peak = Math.max(peak, largestOf(held + (<usize>(TAPS - 1)) * NUMBER, beyond));
  for (let at = 0; at + TAPS <= filled; at += STRETCH) {
    const end = Math.min(filled, at + STRETCH + TAPS - 1) as i32;
    const begin = held + (<usize>at) * NUMBER;
    // Mostly a stretch is so soft that nothing of it need be looked at.
    if (largestOf(begin, held + (<usize>end) * NUMBER) * most <= peak) continue;
    peak = peakWithin(begin, end - at, taps, peak, reach, bend, worthALook);
  }
  return peak;
}

/** As {@link truePeak}, run by run. */
function peakWithin(held: usize, filled: i32, taps: usize, peak: f64, reach: f64, bend: f64, worthALook: f64): f64 {
  const size = (<usize>TAPS) * NUMBER;
  const run = (<usize>RUN) * NUMBER;
  // The bends of what takes part in a run of places are those of four runs of samples, of which three were looked at before.
  let first = bendFrom(held + NUMBER);
  let second = bendFrom(held + NUMBER + run);
  let third = bendFrom(held + NUMBER + 2 * run);
  for (let at = 0; at + TAPS <= filled; at += RUN) {
    const begin = held + (<usize>at) * NUMBER;
    const fourth = bendFrom(begin + NUMBER + 3 * run);
    const most = Math.max(Math.max(first, second), Math.max(third, fourth));
    first = second;
    second = third;
    third = fourth;
    // The samples on both sides of each place.
    const middles = begin + (<usize>(HALF - 1)) * NUMBER;
    let beside = f64x2.abs(v128.load64_splat(middles + run));
    for (let n: usize = 0; n < run; n += 16) beside = larger(f64x2.abs(v128.load(middles + n)), beside);
    if (largest(beside) * reach + most * bend <= peak) continue;
    const end = Math.min(filled, at + RUN + TAPS - 1) as i32;
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
 * Halves the rate of pairs of numbers, by (1, 4, 6, 4, 1)/16.
 * @param line pairs, `filled` of them
 * @param out room for half as many
 * @returns how many pairs were written; twice as many were used up
 */
export function halve(line: usize, filled: i32, out: usize): i32 {
  const four = f64x2.splat(4);
  const six = f64x2.splat(6);
  const share = f64x2.splat(1.0 / 16);
  let made = 0;
  for (; 2 * made + 5 <= filled; made++, line += 2 * COMPLEX, out += COMPLEX) {
    const ends = f64x2.add(v128.load(line), v128.load(line, 64));
    const beside = f64x2.mul(four, f64x2.add(v128.load(line, 16), v128.load(line, 48)));
    const middle = f64x2.mul(six, v128.load(line, 32));
    v128.store(out, f64x2.mul(f64x2.add(f64x2.add(ends, beside), middle), share));
  }
  return made;
}

/**
 * The least and the greatest of some samples.
 * @param out a pair of numbers, which count too
 */
export function extremes(samples: usize, count: i32, out: usize): void {
  let least = v128.load64_splat(out);
  let most = v128.load64_splat(out, 8);
  const end = samples + (<usize>count) * NUMBER;
  for (; samples + 16 <= end; samples += 16) {
    const pair = v128.load(samples);
    least = f64x2.pmin(least, pair);
    most = f64x2.pmax(most, pair);
  }
  let min = Math.min(f64x2.extract_lane(least, 0), f64x2.extract_lane(least, 1));
  let max = largest(most);
  if (samples < end) {
    min = Math.min(min, load<f64>(samples));
    max = Math.max(max, load<f64>(samples));
  }
  store<f64>(out, min);
  store<f64>(out, max, 8);
}

/** Both channels' samples of one moment. */
@inline
function moment(left: usize, right: usize): v128 {
  return v128.load64_lane(right, v128.load64_zero(left), 1);
}

/** What dies away to numbers so small that processors are slow with them is nothing. */
@inline
function settled(state: v128): v128 {
  return v128.and(state, f64x2.ge(f64x2.abs(state), f64x2.splat(1e-25)));
}

/**
 * Energy of two channels after two second-order sections each, transposed direct form II; and their levels as they are, which fit in where the sections wait
 * for themselves.
 * @param sections b0, b1, b2, a1, a2 of the first, then of the second
 * @param states four pairs of numbers, which are gone on from
 * @param sums a pair of numbers for the energies
 * @param out energies, peaks, and the sum of the products of both, added to what is there
 */
export function levels(left: usize, right: usize, frames: i32, sections: usize, states: usize, sums: usize, out: usize): void {
  const b0 = v128.load64_splat(sections);
  const b1 = v128.load64_splat(sections, 8);
  const b2 = v128.load64_splat(sections, 16);
  const a1 = v128.load64_splat(sections, 24);
  const a2 = v128.load64_splat(sections, 32);
  const d0 = v128.load64_splat(sections, 40);
  const d1 = v128.load64_splat(sections, 48);
  const d2 = v128.load64_splat(sections, 56);
  const c1 = v128.load64_splat(sections, 64);
  const c2 = v128.load64_splat(sections, 72);
  let s1 = v128.load(states);
  let s2 = v128.load(states, 16);
  let p1 = v128.load(states, 32);
  let p2 = v128.load(states, 48);
  let sum = f64x2.splat(0);
  let squares = sum;
  let peaks = sum;
  let products = sum;
  const end = left + (<usize>frames) * NUMBER;
  for (; left < end; left += NUMBER, right += NUMBER) {
    const x = moment(left, right);
    const y = f64x2.add(f64x2.mul(b0, x), s1);
    s1 = f64x2.sub(f64x2.add(f64x2.mul(b1, x), s2), f64x2.mul(a1, y));
    s2 = f64x2.sub(f64x2.mul(b2, x), f64x2.mul(a2, y));
    const z = f64x2.add(f64x2.mul(d0, y), p1);
    p1 = f64x2.sub(f64x2.add(f64x2.mul(d1, y), p2), f64x2.mul(c1, z));
    p2 = f64x2.sub(f64x2.mul(d2, y), f64x2.mul(c2, z));
    sum = f64x2.add(sum, f64x2.mul(z, z));
    squares = f64x2.add(squares, f64x2.mul(x, x));
    peaks = larger(f64x2.abs(x), peaks);
    products = f64x2.add(products, f64x2.mul(x, v128.shuffle<f64>(x, x, 1, 0)));
  }
  v128.store(states, settled(s1));
  v128.store(states, settled(s2), 16);
  v128.store(states, settled(p1), 32);
  v128.store(states, settled(p2), 48);
  v128.store(sums, sum);
  v128.store(out, f64x2.add(v128.load(out), squares));
  v128.store(out, larger(peaks, v128.load(out, 16)), 16);
  store<f64>(out, load<f64>(out, 32) + f64x2.extract_lane(products, 0), 32);
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

/**
 * Cells of a fully connected layer: each begins at what its place holds, and adds every input times a weight, in 32 bits.
 * @param inputs 32-bit numbers @param weights by input and output @param cells 32-bit numbers, a multiple of four
 */
export function connect(inputs: usize, count: i32, weights: usize, cells: usize, outputs: i32): void {
  const row = <usize>outputs * 4;
  for (let j: usize = 0; j < row; j += 64) {
    const rest = row - j;
    if (rest >= 64) {
      let a = v128.load(cells + j);
      let b = v128.load(cells + j + 16);
      let c = v128.load(cells + j + 32);
      let d = v128.load(cells + j + 48);
      let weight = weights + j;
      for (let i = 0; i < count; i++, weight += row) {
        const value = v128.load32_splat(inputs + <usize>i * 4);
        a = f32x4.add(a, f32x4.mul(value, v128.load(weight)));
        b = f32x4.add(b, f32x4.mul(value, v128.load(weight + 16)));
        c = f32x4.add(c, f32x4.mul(value, v128.load(weight + 32)));
        d = f32x4.add(d, f32x4.mul(value, v128.load(weight + 48)));
      }
      v128.store(cells + j, a);
      v128.store(cells + j + 16, b);
      v128.store(cells + j + 32, c);
      v128.store(cells + j + 48, d);
      continue;
    }
    for (let k: usize = j; k < row; k += 16) {
      let sum = v128.load(cells + k);
      let weight = weights + k;
      for (let i = 0; i < count; i++, weight += row)
        sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(inputs + <usize>i * 4), v128.load(weight)));
      v128.store(cells + k, sum);
    }
  }
}

/** a + q·b, a step of a polynomial. */
@inline
function next(a: f64, q: v128, b: v128): v128 {
  return f64x2.add(f64x2.splat(a), f64x2.mul(q, b));
}

/**
 * Powers become decibels, in place: their power of two, and the series of the logarithm (atanh) of what is left, between 1/√2 and √2.
 * @param count an even number @param floor is added to each
 */
export function decibels(powers: usize, count: i32, floor: f64): void {
  const end = powers + <usize>count * NUMBER;
  for (let p = powers; p < end; p += 2 * NUMBER) {
    const value = f64x2.add(v128.load(p), f64x2.splat(floor));
    // A number of this size holds a whole one in its last bits.
    const whole = v128.or(i64x2.shr_u(value, 52), i64x2.splat(0x4330000000000000));
    let exponent = f64x2.sub(whole, f64x2.splat(4503599627370496 + 1023));
    let m = v128.or(v128.and(value, i64x2.splat(0x000fffffffffffff)), i64x2.splat(0x3ff0000000000000));
    const isLarge = f64x2.gt(m, f64x2.splat(1.4142135623730951));
    m = v128.bitselect(f64x2.mul(m, f64x2.splat(0.5)), m, isLarge);
    exponent = f64x2.add(exponent, v128.and(isLarge, f64x2.splat(1)));
    const s = f64x2.div(f64x2.sub(m, f64x2.splat(1)), f64x2.add(m, f64x2.splat(1)));
    const q = f64x2.mul(s, s);
    let sum = next(1.0 / 11, q, f64x2.splat(1.0 / 13));
    sum = next(1.0 / 9, q, sum);
    sum = next(1.0 / 7, q, sum);
    sum = next(1.0 / 5, q, sum);
    sum = next(1.0 / 3, q, sum);
    sum = next(1, q, sum);
    const doubled = f64x2.mul(f64x2.splat(2), f64x2.mul(s, sum));
    const neper = f64x2.add(f64x2.mul(exponent, f64x2.splat(0.6931471805599453)), doubled);
    v128.store(p, f64x2.mul(f64x2.splat(4.342944819032518), neper));
  }
}

/** Each number times another. @param count an even number */
export function multiplied(numbers: usize, factors: usize, out: usize, count: i32): void {
  const end = numbers + <usize>count * NUMBER;
  for (; numbers < end; numbers += 16, factors += 16, out += 16)
    v128.store(out, f64x2.mul(v128.load(numbers), v128.load(factors)));
}

/** Writes a pair of sums in the order of their lags. */
@inline
function storeLags(out: usize, later: v128): void {
  v128.store(out, swapped(later));
}

/**
 * Sums of products of samples with those before them.
 * @param samples with as many zeros before them as there are lags @param lags a multiple of eight
 */
export function autocorrelate(samples: usize, count: i32, lags: i32, out: usize): void {
  const end = samples + <usize>count * NUMBER;
  for (let lag = 0; lag < lags; lag += 8) {
    let a = f64x2.splat(0);
    let b = f64x2.splat(0);
    let c = f64x2.splat(0);
    let d = f64x2.splat(0);
    const back = <usize>(lag + 1) * NUMBER;
    for (let p = samples; p < end; p += NUMBER) {
      const value = v128.load64_splat(p);
      const q = p - back;
      a = f64x2.add(a, f64x2.mul(value, v128.load(q)));
      b = f64x2.add(b, f64x2.mul(value, v128.load(q - 2 * NUMBER)));
      c = f64x2.add(c, f64x2.mul(value, v128.load(q - 4 * NUMBER)));
      d = f64x2.add(d, f64x2.mul(value, v128.load(q - 6 * NUMBER)));
    }
    const at = out + <usize>lag * NUMBER;
    storeLags(at, a);
    storeLags(at + 2 * NUMBER, b);
    storeLags(at + 4 * NUMBER, c);
    storeLags(at + 6 * NUMBER, d);
  }
}

/**
 * Each sample and those before it, times a factor each.
 * @param samples with `order` samples before them @param count a multiple of eight @param factors from that of the sample before on
 */
export function residual(samples: usize, count: i32, factors: usize, order: i32, out: usize): void {
  const bytes = <usize>count * NUMBER;
  for (let at: usize = 0; at < bytes; at += 8 * NUMBER) {
    const from = samples + at;
    let a = v128.load(from);
    let b = v128.load(from + 2 * NUMBER);
    let c = v128.load(from + 4 * NUMBER);
    let d = v128.load(from + 6 * NUMBER);
    for (let k = 0; k < order; k++) {
      const factor = v128.load64_splat(factors + <usize>k * NUMBER);
      const p = from - <usize>(k + 1) * NUMBER;
      a = f64x2.add(a, f64x2.mul(factor, v128.load(p)));
      b = f64x2.add(b, f64x2.mul(factor, v128.load(p + 2 * NUMBER)));
      c = f64x2.add(c, f64x2.mul(factor, v128.load(p + 4 * NUMBER)));
      d = f64x2.add(d, f64x2.mul(factor, v128.load(p + 6 * NUMBER)));
    }
    v128.store(out + at, a);
    v128.store(out + at + 2 * NUMBER, b);
    v128.store(out + at + 4 * NUMBER, c);
    v128.store(out + at + 6 * NUMBER, d);
  }
}
