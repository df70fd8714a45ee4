/** The clipper's loop: see `clipper-loop.ts` and `oversampling.ts`. */
import { CHUNK, dot, keep, PAIR, TAP } from './filter';

/** Taps of the three doublings; of the last two halvings, in reverse; of the last step down. */
const FIRST: i32 = 40;
const SECOND: i32 = 12;
const THIRD: i32 = 10;
const LAST: i32 = 155;

const TAPS_SECOND: usize = FIRST * TAP;
const TAPS_THIRD: usize = TAPS_SECOND + SECOND * TAP;
const TAPS_DOWN_THIRD: usize = TAPS_THIRD + THIRD * TAP;
const TAPS_DOWN_SECOND: usize = TAPS_DOWN_THIRD + THIRD * TAP;
const TAPS_LAST: usize = TAPS_DOWN_SECOND + SECOND * TAP;

/** The last dense sample, its area, and the curve that it went through. */
const VALUE: usize = 0;
const AREA: usize = PAIR;
const CEILING: usize = 2 * PAIR;
const BENDS_AT: usize = 3 * PAIR;
/** Signals at each rate, each behind what its filter still needs of the past. */
const INPUT: usize = 4 * PAIR;
const INPUT_PAST: i32 = FIRST - 1;
const DOUBLE: usize = INPUT + (INPUT_PAST + CHUNK) * PAIR;
const DOUBLE_PAST: i32 = SECOND - 1;
const FOURFOLD: usize = DOUBLE + (DOUBLE_PAST + 2 * CHUNK) * PAIR;
const FOURFOLD_PAST: i32 = THIRD - 1;
const DENSE: usize = FOURFOLD + (FOURFOLD_PAST + 4 * CHUNK) * PAIR;
const DENSE_PAST: i32 = 2 * (THIRD - 1);
const BACK_FOURFOLD: usize = DENSE + (DENSE_PAST + 8 * CHUNK) * PAIR;
const BACK_FOURFOLD_PAST: i32 = 2 * (SECOND - 1);
const BACK_DOUBLE: usize = BACK_FOURFOLD + (BACK_FOURFOLD_PAST + 4 * CHUNK) * PAIR;
const BACK_DOUBLE_PAST: i32 = LAST - 1;

/** Bytes of a clipper's own that {@link clip} works in. */
export const CLIPPER_BYTES: usize = BACK_DOUBLE + (BACK_DOUBLE_PAST + 2 * CHUNK) * PAIR;

/** From one rate to twice as much: of each pair one sample is filtered, the other is the input itself, late. */
@inline
function double(taps: usize, reach: i32, from: usize, to: usize, count: i32): void {
  for (let n = 0; n < count; n++, from += PAIR, to += 2 * PAIR) {
    v128.store(to, dot(taps, reach, from, PAIR));
    v128.store(to + PAIR, v128.load(from - <usize>(reach / 2 - 1) * PAIR));
  }
}

/** From one rate to half of it. */
@inline
function halve(taps: usize, reach: i32, from: usize, to: usize, count: i32): void {
  for (let n = 0; n < count; n++, from += 2 * PAIR, to += PAIR) {
    const late = v128.load(from + PAIR - <usize>reach * PAIR);
    v128.store(to, f64x2.add(dot(taps, reach, from, 2 * PAIR), f64x2.mul(f64x2.splat(0.5), late)));
  }
}

/** The antiderivative of the curve: see `clippedArea`. */
@inline
function areaOf(value: v128, bendsAt: v128, ceiling: v128): v128 {
  const size = f64x2.abs(value);
  const straight = f64x2.mul(f64x2.mul(size, size), f64x2.splat(0.5));
  const isStraight = f64x2.le(size, bendsAt);
  if (i64x2.all_true(isStraight)) return straight;
  const width = f64x2.sub(ceiling, bendsAt);
  const over = f64x2.sub(size, bendsAt);
  const below = f64x2.mul(f64x2.mul(bendsAt, bendsAt), f64x2.splat(0.5));
  const share = f64x2.sub(f64x2.splat(0.5), f64x2.div(over, f64x2.mul(f64x2.splat(12), width)));
  const bent = f64x2.add(f64x2.add(below, f64x2.mul(bendsAt, over)), f64x2.mul(f64x2.mul(over, over), share));
  const twice = f64x2.mul(f64x2.splat(2), width);
  const whole = f64x2.add(
    f64x2.add(below, f64x2.mul(f64x2.mul(f64x2.splat(2), bendsAt), width)),
    f64x2.mul(f64x2.mul(f64x2.splat(4.0 / 3.0), width), width),
  );
  const level = f64x2.add(whole, f64x2.mul(ceiling, f64x2.sub(over, twice)));
  return v128.bitselect(straight, v128.bitselect(bent, level, f64x2.lt(over, twice)), isStraight);
}

/** The curve itself: see `clipped`. */
@inline
function clippedOf(value: v128, bendsAt: v128, ceiling: v128): v128 {
  const size = f64x2.abs(value);
  const width = f64x2.sub(ceiling, bendsAt);
  const over = f64x2.sub(size, bendsAt);
  const bent = f64x2.sub(
    f64x2.add(bendsAt, over),
    f64x2.div(f64x2.mul(over, over), f64x2.mul(f64x2.splat(4), width)),
  );
  const out = v128.bitselect(ceiling, bent, f64x2.ge(over, f64x2.mul(f64x2.splat(2), width)));
  const signed = v128.bitselect(f64x2.neg(out), out, f64x2.lt(value, f64x2.splat(0)));
  return v128.bitselect(value, signed, f64x2.le(size, bendsAt));
}

/** Means of the curve between each two dense samples, in place. */
@inline
function bend(state: usize, dense: usize, ceilings: usize, bends: usize, frames: i32): void {
  let last = v128.load(state + VALUE);
  let lastArea = v128.load(state + AREA);
  let heldCeiling = load<f64>(state + CEILING);
  let heldBendsAt = load<f64>(state + BENDS_AT);
  let ceiling = f64x2.splat(heldCeiling);
  let bendsAt = f64x2.splat(heldBendsAt);
  let p = dense;
  for (let n: usize = 0; n < <usize>frames; n++) {
    const wanted = load<f64>(ceilings + n * 8);
    const wantedBend = wanted * (1 - load<f64>(bends + n * 8));
    if (wanted != heldCeiling || wantedBend != heldBendsAt) {
      heldCeiling = wanted;
      heldBendsAt = wantedBend;
      ceiling = f64x2.splat(wanted);
      bendsAt = f64x2.splat(wantedBend);
      lastArea = areaOf(last, bendsAt, ceiling);
    }
    for (const end = p + 8 * PAIR; p < end; p += PAIR) {
      const value = v128.load(p);
      const step = f64x2.sub(value, last);
      const area = areaOf(value, bendsAt, ceiling);
      const isStep = f64x2.gt(f64x2.abs(step), f64x2.splat(1e-6));
      let mean = f64x2.div(f64x2.sub(area, lastArea), step);
      if (!i64x2.all_true(isStep)) {
        const middle = f64x2.mul(f64x2.add(value, last), f64x2.splat(0.5));
        mean = v128.bitselect(mean, clippedOf(middle, bendsAt, ceiling), isStep);
      }
      v128.store(p, mean);
      last = value;
      lastArea = area;
    }
  }
  v128.store(state + VALUE, last);
  v128.store(state + AREA, lastArea);
  store<f64>(state + CEILING, heldCeiling);
  store<f64>(state + BENDS_AT, heldBendsAt);
}

/**
 * Eight times as many samples, the curve between each two of them, and back; in place.
 * @param state {@link CLIPPER_BYTES} that are the clipper's own, zero at first
 * @param taps of all filters, one after the other
 * @param signal pairs of samples
 * @param drives a factor for each frame, as `ceilings` and `bends`
 */
export function clip(
  state: usize,
  taps: usize,
  signal: usize,
  drives: usize,
  ceilings: usize,
  bends: usize,
  frames: i32,
): void {
  const input = state + INPUT + INPUT_PAST * PAIR;
  const doubled = state + DOUBLE + DOUBLE_PAST * PAIR;
  const fourfold = state + FOURFOLD + FOURFOLD_PAST * PAIR;
  const dense = state + DENSE + DENSE_PAST * PAIR;
  const backFourfold = state + BACK_FOURFOLD + BACK_FOURFOLD_PAST * PAIR;
  const backDouble = state + BACK_DOUBLE + BACK_DOUBLE_PAST * PAIR;
  for (let done = 0; done < frames; ) {
    const count = min(CHUNK, frames - done);
    const at = <usize>done * 8;
    const out = signal + <usize>done * PAIR;
    for (let n: usize = 0; n < <usize>count; n++)
      v128.store(input + n * PAIR, f64x2.mul(v128.load(out + n * PAIR), v128.load64_splat(drives + at + n * 8)));
    double(taps, FIRST, input, doubled, count);
    double(taps + TAPS_SECOND, SECOND, doubled, fourfold, 2 * count);
    double(taps + TAPS_THIRD, THIRD, fourfold, dense, 4 * count);
    bend(state, dense, ceilings + at, bends + at, count);
    halve(taps + TAPS_DOWN_THIRD, THIRD, dense, backFourfold, 4 * count);
    halve(taps + TAPS_DOWN_SECOND, SECOND, backFourfold, backDouble, 2 * count);
    for (let n: usize = 0; n < <usize>count; n++)
      v128.store(out + n * PAIR, dot(taps + TAPS_LAST, LAST, backDouble + 2 * n * PAIR, PAIR));
    keep(state + INPUT, INPUT_PAST, count);
    keep(state + DOUBLE, DOUBLE_PAST, 2 * count);
    keep(state + FOURFOLD, FOURFOLD_PAST, 4 * count);
    keep(state + DENSE, DENSE_PAST, 8 * count);
    keep(state + BACK_FOURFOLD, BACK_FOURFOLD_PAST, 4 * count);
    keep(state + BACK_DOUBLE, BACK_DOUBLE_PAST, 2 * count);
    done += count;
  }
}
