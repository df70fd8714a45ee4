/**
 * The inner loops of the clipper and of the limiter for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles them). Each vector
 * holds the left and the right sample of a frame. The operations and their order are those of `clipper-loop.ts`, `oversampling.ts` and
 * `peak-loop.ts`, so both give the same numbers to the last bit.
 */
const PAIR: usize = 16;
const TAP: usize = 8;
/** Frames that are worked on at a time: what they become fits into the fastest memory. */
const CHUNK: i32 = 64;

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

/** The sum of products of some taps with samples that lie one before the other. @param step bytes from one sample to the one before */
@inline
function dot(taps: usize, count: i32, latest: usize, step: usize): v128 {
  let first = f64x2.splat(0);
  let second = f64x2.splat(0);
  let third = f64x2.splat(0);
  let fourth = f64x2.splat(0);
  let p = latest;
  const whole = taps + <usize>(count - (count % 4)) * TAP;
  let tap = taps;
  for (; tap < whole; tap += 4 * TAP) {
    first = f64x2.add(first, f64x2.mul(v128.load64_splat(tap), v128.load(p)));
    second = f64x2.add(second, f64x2.mul(v128.load64_splat(tap + TAP), v128.load(p - step)));
    third = f64x2.add(third, f64x2.mul(v128.load64_splat(tap + 2 * TAP), v128.load(p - 2 * step)));
    fourth = f64x2.add(fourth, f64x2.mul(v128.load64_splat(tap + 3 * TAP), v128.load(p - 3 * step)));
    p -= 4 * step;
  }
  for (; tap < taps + <usize>count * TAP; tap += TAP) {
    first = f64x2.add(first, f64x2.mul(v128.load64_splat(tap), v128.load(p)));
    p -= step;
  }
  return f64x2.add(f64x2.add(first, third), f64x2.add(second, fourth));
}

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

/** What the filters still need of the past is moved to where the past lies. */
@inline
function keep(signal: usize, past: i32, used: i32): void {
  memory.copy(signal, signal + <usize>used * PAIR, <usize>past * PAIR);
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

/** Taps of each value between two samples, and how many values there are. */
const PEAK_TAPS: i32 = 24;
const PEAK_PHASES: i32 = 3;
const PEAK_PAST: i32 = PEAK_TAPS - 1;
const HALF: usize = <usize>(PEAK_TAPS / 2) * PAIR;
/** Frames for which something loud enough is still among those that are looked at. */
const LOUD: usize = 0;
const HELD: usize = PAIR;

/** Bytes of a limiter's own that {@link peaks} works in. */
export const PEAKS_BYTES: usize = HELD + (PEAK_PAST + CHUNK) * PAIR;

@inline
function larger(value: v128): f64 {
  return max(f64x2.extract_lane(value, 0), f64x2.extract_lane(value, 1));
}

/**
 * Raises what is known of peaks to those at, and between, samples; half the taps late.
 * @param state {@link PEAKS_BYTES} that are the limiter's own, zero at first
 * @param taps of the values between two samples, latest sample first
 * @param signal pairs of samples
 * @param worth for each frame: below this nothing needs to be known
 * @param mostGain how much larger than the largest sample a value between samples is at most
 */
export function peaks(
  state: usize,
  taps: usize,
  signal: usize,
  worth: usize,
  out: usize,
  mostGain: f64,
  frames: i32,
): void {
  const held = state + HELD + PEAK_PAST * PAIR;
  let loud = load<i32>(state + LOUD);
  for (let done = 0; done < frames; ) {
    const count = min(CHUNK, frames - done);
    memory.copy(held, signal + <usize>done * PAIR, <usize>count * PAIR);
    for (let n = 0; n < count; n++) {
      const at = held + <usize>n * PAIR;
      const place = <usize>(done + n) * 8;
      loud = larger(f64x2.abs(v128.load(at))) * mostGain > load<f64>(worth + place) ? PEAK_TAPS : loud - 1;
      let peak = f64x2.max(f64x2.abs(v128.load(at - HALF)), f64x2.abs(v128.load(at - HALF + PAIR)));
      if (loud > 0)
        for (let phase = 0; phase < PEAK_PHASES; phase++) {
          const value = dot(taps + <usize>(phase * PEAK_TAPS) * TAP, PEAK_TAPS, at, PAIR);
          peak = f64x2.max(peak, f64x2.abs(value));
        }
      store<f64>(out + place, max(load<f64>(out + place), larger(peak)));
    }
    keep(state + HELD, PEAK_PAST, count);
    done += count;
  }
  store<i32>(state + LOUD, loud);
}
