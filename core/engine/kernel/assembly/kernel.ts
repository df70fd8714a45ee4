/**
 * The inner loops of the equalizer for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it). Each vector holds the two
 * lanes of a frame. The operations and their order are those of `reference-kernel.ts`, so both give the same numbers; offsets are
 * those of `layout.ts`, in bytes.
 */
const PAIR: usize = 16;
const STRIDE: usize = 64 * 8;
const STATE_1: usize = 5 * PAIR;
const STATE_2: usize = 6 * PAIR;
const EASED: usize = 7 * PAIR;
const PARAMETERS: usize = 5;
const STAGE: usize = PARAMETERS * PAIR;
const LAST: usize = EASED + 2 * STAGE;
const TARGETS: usize = EASED + 3 * STAGE;
const STARTS: usize = TARGETS + STAGE;
const STEP: i32 = 16;
const SILENCE: f64 = 1e-30;

/** x − a2·w2 − a1·w1 */
@inline
function inner(x: v128, a1: v128, a2: v128, w1: v128, w2: v128): v128 {
  return f64x2.sub(f64x2.sub(x, f64x2.mul(a2, w2)), f64x2.mul(a1, w1));
}

/** b0·w + (b1·w1 + b2·w2) @param ofOne true where b0 is 1: compiled apart */
@inline
function outer(w: v128, b0: v128, b1: v128, b2: v128, w1: v128, w2: v128, ofOne: bool): v128 {
  return f64x2.add(ofOne ? w : f64x2.mul(b0, w), f64x2.add(f64x2.mul(b1, w1), f64x2.mul(b2, w2)));
}

/** Two sections at once, the second one frame behind the first, so that neither waits for the other. */
@inline
function pair(at: usize, signal: usize, frames: i32, ofOne: bool): void {
  const bt = at + STRIDE;
  const b0 = v128.load(at);
  const b1 = v128.load(at + PAIR);
  const b2 = v128.load(at + 2 * PAIR);
  const a1 = v128.load(at + 3 * PAIR);
  const a2 = v128.load(at + 4 * PAIR);
  const d0 = v128.load(bt);
  const d1 = v128.load(bt + PAIR);
  const d2 = v128.load(bt + 2 * PAIR);
  const c1 = v128.load(bt + 3 * PAIR);
  const c2 = v128.load(bt + 4 * PAIR);
  let w1 = v128.load(at + STATE_1);
  let w2 = v128.load(at + STATE_2);
  let u1 = v128.load(bt + STATE_1);
  let u2 = v128.load(bt + STATE_2);
  const end = signal + (<usize>frames) * PAIR;
  let w = inner(v128.load(signal), a1, a2, w1, w2);
  let between = outer(w, b0, b1, b2, w1, w2, ofOne);
  w2 = w1;
  w1 = w;
  for (let p = signal + PAIR; p < end; p += PAIR) {
    const u = inner(between, c1, c2, u1, u2);
    w = inner(v128.load(p), a1, a2, w1, w2);
    v128.store(p - PAIR, outer(u, d0, d1, d2, u1, u2, ofOne));
    between = outer(w, b0, b1, b2, w1, w2, ofOne);
    u2 = u1;
    u1 = u;
    w2 = w1;
    w1 = w;
  }
  const u = inner(between, c1, c2, u1, u2);
  v128.store(end - PAIR, outer(u, d0, d1, d2, u1, u2, ofOne));
  v128.store(at + STATE_1, w1);
  v128.store(at + STATE_2, w2);
  v128.store(bt + STATE_1, u);
  v128.store(bt + STATE_2, u1);
}

function runPair(at: usize, signal: usize, frames: i32): void {
  pair(at, signal, frames, false);
}

function runPairOfOne(at: usize, signal: usize, frames: i32): void {
  pair(at, signal, frames, true);
}

function runOne(at: usize, signal: usize, frames: i32): void {
  const b0 = v128.load(at);
  const b1 = v128.load(at + PAIR);
  const b2 = v128.load(at + 2 * PAIR);
  const a1 = v128.load(at + 3 * PAIR);
  const a2 = v128.load(at + 4 * PAIR);
  let w1 = v128.load(at + STATE_1);
  let w2 = v128.load(at + STATE_2);
  const end = signal + (<usize>frames) * PAIR;
  for (let p = signal; p < end; p += PAIR) {
    const w = inner(v128.load(p), a1, a2, w1, w2);
    v128.store(p, outer(w, b0, b1, b2, w1, w2, false));
    w2 = w1;
    w1 = w;
  }
  v128.store(at + STATE_1, w1);
  v128.store(at + STATE_2, w2);
}

export function run(sections: usize, count: i32, signal: usize, frames: i32): void {
  let at = sections;
  for (; count > 1; count -= 2) {
    runPair(at, signal, frames);
    at += 2 * STRIDE;
  }
  if (count > 0) runOne(at, signal, frames);
}

/** As {@link run}, for sections whose b0 is 1. */
export function runOfOne(sections: usize, count: i32, signal: usize, frames: i32): void {
  let at = sections;
  for (; count > 1; count -= 2) {
    runPairOfOne(at, signal, frames);
    at += 2 * STRIDE;
  }
  if (count > 0) runOne(at, signal, frames);
}

/** One step of a parameter through its three low-passes. */
@inline
function eased(at: usize, parameter: usize, share: v128): v128 {
  const first = towards(at + EASED + parameter, v128.load(at + TARGETS + parameter), share);
  const second = towards(at + EASED + STAGE + parameter, first, share);
  return towards(at + LAST + parameter, second, share);
}

@inline
function towards(place: usize, target: v128, share: v128): v128 {
  const old = v128.load(place);
  const value = f64x2.add(old, f64x2.mul(share, f64x2.sub(target, old)));
  v128.store(place, value);
  return value;
}

/** The next step of a section's parameters begins where the last one has ended. */
function advance(at: usize, share: v128): void {
  for (let parameter: usize = 0; parameter < STAGE; parameter += PAIR) {
    v128.store(at + STARTS + parameter, v128.load(at + LAST + parameter));
    eased(at, parameter, share);
  }
}

/** What a number moves by in a frame of a step. */
@inline
function move(from: v128, to: v128): v128 {
  return f64x2.mul(f64x2.splat(1.0 / STEP), f64x2.sub(to, from));
}

/** Of g and k: 2 / (1 + g·(g + k)) */
@inline
function solved(parameters: usize): v128 {
  const g = v128.load(parameters);
  const k = v128.load(parameters + PAIR);
  return f64x2.div(f64x2.splat(2), f64x2.add(f64x2.splat(1), f64x2.mul(g, f64x2.add(g, k))));
}

/** Half of a parameter. */
@inline
function half(place: usize): v128 {
  return f64x2.mul(f64x2.splat(0.5), v128.load(place));
}

/**
 * A state-variable section, its integrators' next states by those before: s1' = d1·s1 + c2·(x − s2), s2' = s2 + c2·s1 + c3·(x − s2), with
 * d1 = 2/(1 + g(g + k)) − 1, c2 = g·(d1 + 1), c3 = g·c2; its band and low outputs are the means of both states.
 */
function easeOne(at: usize, signal: usize, frames: i32, share: v128, phase: i32): void {
  const starts = at + STARTS;
  const ends = at + LAST;
  let s1 = v128.load(at + STATE_1);
  let s2 = v128.load(at + STATE_2);
  const end = signal + (<usize>frames) * PAIR;
  for (let p = signal; p < end; phase = 0) {
    if (phase === 0) advance(at, share);
    const first = solved(starts);
    const last = solved(ends);
    let d1 = f64x2.sub(first, f64x2.splat(1));
    let c2 = f64x2.mul(v128.load(starts), first);
    let c3 = f64x2.mul(v128.load(starts), c2);
    let m0 = v128.load(starts + 2 * PAIR);
    let m1 = half(starts + 3 * PAIR);
    let m2 = half(starts + 4 * PAIR);
    const endC2 = f64x2.mul(v128.load(ends), last);
    const move1 = move(first, last);
    const move2 = move(c2, endC2);
    const move3 = move(c3, f64x2.mul(v128.load(ends), endC2));
    const moveM0 = move(m0, v128.load(ends + 2 * PAIR));
    const moveM1 = move(m1, half(ends + 3 * PAIR));
    const moveM2 = move(m2, half(ends + 4 * PAIR));
    for (let over = 0; over < phase; over++) {
      d1 = f64x2.add(d1, move1);
      c2 = f64x2.add(c2, move2);
      c3 = f64x2.add(c3, move3);
      m0 = f64x2.add(m0, moveM0);
      m1 = f64x2.add(m1, moveM1);
      m2 = f64x2.add(m2, moveM2);
    }
    const stop = min(end, p + (<usize>(STEP - phase)) * PAIR);
    for (; p < stop; p += PAIR) {
      d1 = f64x2.add(d1, move1);
      c2 = f64x2.add(c2, move2);
      c3 = f64x2.add(c3, move3);
      m0 = f64x2.add(m0, moveM0);
      m1 = f64x2.add(m1, moveM1);
      m2 = f64x2.add(m2, moveM2);
      const x = v128.load(p);
      const into = f64x2.sub(x, s2);
      const t1 = f64x2.add(f64x2.mul(d1, s1), f64x2.mul(c2, into));
      const t2 = f64x2.add(f64x2.add(s2, f64x2.mul(c2, s1)), f64x2.mul(c3, into));
      const band = f64x2.mul(m1, f64x2.add(t1, s1));
      v128.store(p, f64x2.add(f64x2.mul(m0, x), f64x2.add(band, f64x2.mul(m2, f64x2.add(t2, s2)))));
      s1 = t1;
      s2 = t2;
    }
  }
  v128.store(at + STATE_1, s1);
  v128.store(at + STATE_2, s2);
}

/** @param phase frames of a step that are over already */
export function ease(sections: usize, count: i32, signal: usize, frames: i32, follow: f64, phase: i32): void {
  const share = f64x2.splat(follow);
  for (let at = sections; count > 0; count--, at += STRIDE) easeOne(at, signal, frames, share, phase);
}

/** Numbers too small to be normal become zero. */
@inline
function flushed(place: usize): void {
  const value = v128.load(place);
  v128.store(place, v128.andnot(value, f64x2.lt(f64x2.abs(value), f64x2.splat(SILENCE))));
}

/** Of the memory of sections: see `Kernel.flush`. */
export function flush(sections: usize, count: i32): void {
  for (let at = sections; count > 0; count--, at += STRIDE) {
    flushed(at + STATE_1);
    flushed(at + STATE_2);
  }
}

export function interleave(left: usize, right: usize, signal: usize, frames: i32): void {
  for (let n: usize = 0; n < <usize>frames; n++) {
    const first = v128.load64_zero(left + n * 8);
    v128.store(signal + n * PAIR, v128.load64_lane(right + n * 8, first, 1));
  }
}

export function separate(signal: usize, left: usize, right: usize, frames: i32): void {
  for (let n: usize = 0; n < <usize>frames; n++) {
    const pair = v128.load(signal + n * PAIR);
    v128.store64_lane(left + n * 8, pair, 0);
    v128.store64_lane(right + n * 8, pair, 1);
  }
}

/** (a, b) becomes (a + b, a − b), both times `scale`. */
export function sumAndDifference(signal: usize, frames: i32, scale: f64): void {
  const scales = f64x2.splat(scale);
  const signs = f64x2.replace_lane(f64x2.splat(1), 1, -1);
  const end = signal + <usize>frames * PAIR;
  for (let p = signal; p < end; p += PAIR) {
    const pair = f64x2.mul(scales, v128.load(p));
    const first = f64x2.splat(f64x2.extract_lane(pair, 0));
    const second = f64x2.splat(f64x2.extract_lane(pair, 1));
    v128.store(p, f64x2.add(first, f64x2.mul(signs, second)));
  }
}

/** 32-bit samples, interleaved. @returns 0 when all are numbers */
export function fromFloats(floats: usize, signal: usize, frames: i32): i32 {
  let oddities = f64x2.splat(0);
  for (let n: usize = 0; n < <usize>frames; n++) {
    const pair = f64x2.promote_low_f32x4(v128.load64_zero(floats + n * 8));
    oddities = f64x2.add(oddities, f64x2.sub(pair, pair));
    v128.store(signal + n * PAIR, pair);
  }
  return i32(v128.any_true(oddities));
}

export function fromFloatsMono(floats: usize, signal: usize, frames: i32): i32 {
  let oddities = f64x2.splat(0);
  for (let n: usize = 0; n < <usize>frames; n++) {
    const pair = f64x2.splat(<f64>load<f32>(floats + n * 4));
    oddities = f64x2.add(oddities, f64x2.sub(pair, pair));
    v128.store(signal + n * PAIR, pair);
  }
  return i32(v128.any_true(oddities));
}

/** Each lane times its factor. */
export function toFloats(signal: usize, floats: usize, frames: i32, first: f64, second: f64): void {
  const factors = f64x2.replace_lane(f64x2.splat(first), 1, second);
  for (let n: usize = 0; n < <usize>frames; n++) {
    const pair = f64x2.mul(factors, v128.load(signal + n * PAIR));
    v128.store64_lane(floats + n * 8, f32x4.demote_f64x2_zero(pair), 0);
  }
}

export function toFloatsMono(signal: usize, floats: usize, frames: i32, factor: f64): void {
  for (let n: usize = 0; n < <usize>frames; n++)
    store<f32>(floats + n * 4, <f32>(factor * load<f64>(signal + n * PAIR)));
}

/** 32-bit samples, an array for each side. @returns 0 when all are zero */
export function fromPlanar(left: usize, right: usize, signal: usize, frames: i32): i32 {
  let bits = f64x2.splat(0);
  for (let n: usize = 0; n < <usize>frames; n++) {
    const first = v128.load32_zero(left + n * 4);
    const pair = f64x2.promote_low_f32x4(v128.load32_lane(right + n * 4, first, 1));
    bits = v128.or(bits, pair);
    v128.store(signal + n * PAIR, pair);
  }
  return i32(v128.any_true(bits));
}

/** Adds each lane, times its factor, to an array. */
export function mixPlanar(
  signal: usize,
  left: usize,
  right: usize,
  leftFactor: f64,
  rightFactor: f64,
  frames: i32,
): void {
  const leftFactors = f64x2.splat(leftFactor);
  const rightFactors = f64x2.splat(rightFactor);
  let n: usize = 0;
  for (; n + 1 < <usize>frames; n += 2) {
    const first = v128.load(signal + n * PAIR);
    const second = v128.load(signal + n * PAIR + PAIR);
    const lefts = f64x2.mul(v128.shuffle<f64>(first, second, 0, 2), leftFactors);
    const rights = f64x2.mul(v128.shuffle<f64>(first, second, 1, 3), rightFactors);
    v128.store(left + n * 8, f64x2.add(v128.load(left + n * 8), lefts));
    v128.store(right + n * 8, f64x2.add(v128.load(right + n * 8), rights));
  }
  if (n < <usize>frames) {
    const last = v128.load(signal + n * PAIR);
    store<f64>(left + n * 8, load<f64>(left + n * 8) + f64x2.extract_lane(last, 0) * leftFactor);
    store<f64>(right + n * 8, load<f64>(right + n * 8) + f64x2.extract_lane(last, 1) * rightFactor);
  }
}

/** Adds samples to others. */
export function add(sum: usize, samples: usize, frames: i32): void {
  let n: usize = 0;
  for (; n + 1 < <usize>frames; n += 2)
    v128.store(sum + n * 8, f64x2.add(v128.load(sum + n * 8), v128.load(samples + n * 8)));
  if (n < <usize>frames) store<f64>(sum + n * 8, load<f64>(sum + n * 8) + load<f64>(samples + n * 8));
}

/** Adds samples, times a factor, to others. */
export function addScaled(sum: usize, samples: usize, factor: f64, frames: i32): void {
  const factors = f64x2.splat(factor);
  let n: usize = 0;
  for (; n + 1 < <usize>frames; n += 2)
    v128.store(sum + n * 8, f64x2.add(v128.load(sum + n * 8), f64x2.mul(v128.load(samples + n * 8), factors)));
  if (n < <usize>frames) store<f64>(sum + n * 8, load<f64>(sum + n * 8) + load<f64>(samples + n * 8) * factor);
}

/** @param moves true where each sample has a gain: compiled apart */
@inline
function addAndMeasure(
  sum: usize,
  samples: usize,
  gains: usize,
  factor: f64,
  frames: i32,
  measured: usize,
  moves: bool,
): void {
  const factors = f64x2.splat(factor);
  let peaks = f64x2.splat(0);
  let powers = f64x2.splat(0);
  let n: usize = 0;
  for (; n + 1 < <usize>frames; n += 2) {
    const all = v128.load(samples + n * 8);
    const values = f64x2.mul(moves ? f64x2.mul(all, v128.load(gains + n * 8)) : all, factors);
    v128.store(sum + n * 8, f64x2.add(v128.load(sum + n * 8), values));
    peaks = f64x2.pmax(peaks, f64x2.abs(values));
    powers = f64x2.add(powers, f64x2.mul(values, values));
  }
  let peak = max(f64x2.extract_lane(peaks, 0), f64x2.extract_lane(peaks, 1));
  let power = f64x2.extract_lane(powers, 0);
  if (n < <usize>frames) {
    const last = load<f64>(samples + n * 8);
    const value = (moves ? last * load<f64>(gains + n * 8) : last) * factor;
    store<f64>(sum + n * 8, load<f64>(sum + n * 8) + value);
    if (abs(value) > peak) peak = abs(value);
    power += value * value;
  }
  store<f64>(measured, peak);
  store<f64>(measured + 8, power + f64x2.extract_lane(powers, 1));
}

/** As {@link addScaled}. @param measured where the peak, and the sum of squares, of what is added are written */
export function addMeasured(sum: usize, samples: usize, factor: f64, frames: i32, measured: usize): void {
  addAndMeasure(sum, samples, 0, factor, frames, measured, false);
}

/** As {@link addMeasured}, times a gain for each sample. */
export function addMoving(sum: usize, samples: usize, gains: usize, factor: f64, frames: i32, measured: usize): void {
  addAndMeasure(sum, samples, gains, factor, frames, measured, true);
}

/** @returns 0 when all samples are numbers, and none is infinite */
export function oddities(samples: usize, frames: i32): i32 {
  const zero = f64x2.splat(0);
  // Four sums at a time: none waits for the one before.
  let first = zero;
  let second = zero;
  let third = zero;
  let fourth = zero;
  let n: usize = 0;
  for (; n + 7 < <usize>frames; n += 8) {
    const at = samples + n * 8;
    first = f64x2.add(first, f64x2.mul(v128.load(at), zero));
    second = f64x2.add(second, f64x2.mul(v128.load(at, 16), zero));
    third = f64x2.add(third, f64x2.mul(v128.load(at, 32), zero));
    fourth = f64x2.add(fourth, f64x2.mul(v128.load(at, 48), zero));
  }
  for (; n < <usize>frames; n++) first = f64x2.add(first, f64x2.mul(v128.load64_zero(samples + n * 8), zero));
  const sum = f64x2.add(f64x2.add(first, second), f64x2.add(third, fourth));
  return i32(v128.any_true(f64x2.ne(sum, zero)));
}
