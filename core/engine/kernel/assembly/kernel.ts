/**
 * The inner loops of the equalizer for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it). Each vector holds the two
 * lanes of a frame. The operations and their order are those of `reference-kernel.ts`, so both give the same numbers; offsets are
 * those of `layout.ts`, in bytes.
 */
const PAIR: usize = 16;
const STRIDE: usize = 64 * 8;
const STATE_1: usize = 9 * PAIR;
const STATE_2: usize = 10 * PAIR;
const EASED: usize = 11 * PAIR;
const PARAMETERS: usize = 5;
const STAGE: usize = PARAMETERS * PAIR;
const LAST: usize = EASED + 2 * STAGE;
const TARGETS: usize = EASED + 3 * STAGE;

@inline
function times(at: usize, offset: usize, x: v128): v128 {
  return f64x2.mul(v128.load(at + offset), x);
}

@inline
function outputOf(at: usize, x: v128, s1: v128, s2: v128): v128 {
  return f64x2.add(times(at, 8 * PAIR, x), f64x2.add(times(at, 6 * PAIR, s1), times(at, 7 * PAIR, s2)));
}

@inline
function nextFirst(at: usize, x: v128, s1: v128, s2: v128): v128 {
  return f64x2.add(times(at, 0, s1), f64x2.add(times(at, PAIR, s2), times(at, 2 * PAIR, x)));
}

@inline
function nextSecond(at: usize, x: v128, s1: v128, s2: v128): v128 {
  return f64x2.add(times(at, 4 * PAIR, s2), f64x2.add(times(at, 3 * PAIR, s1), times(at, 5 * PAIR, x)));
}

/** Two sections at once, the second one frame behind the first, so that neither waits for the other. */
function runPair(at: usize, signal: usize, frames: i32): void {
  const bt = at + STRIDE;
  let s1 = v128.load(at + STATE_1);
  let s2 = v128.load(at + STATE_2);
  let u1 = v128.load(bt + STATE_1);
  let u2 = v128.load(bt + STATE_2);
  const end = signal + <usize>frames * PAIR;
  let x = v128.load(signal);
  let between = outputOf(at, x, s1, s2);
  let next = nextFirst(at, x, s1, s2);
  s2 = nextSecond(at, x, s1, s2);
  s1 = next;
  for (let p = signal + PAIR; p < end; p += PAIR) {
    x = v128.load(p);
    const y = outputOf(at, x, s1, s2);
    const z = outputOf(bt, between, u1, u2);
    next = nextFirst(at, x, s1, s2);
    s2 = nextSecond(at, x, s1, s2);
    s1 = next;
    next = nextFirst(bt, between, u1, u2);
    u2 = nextSecond(bt, between, u1, u2);
    u1 = next;
    between = y;
    v128.store(p - PAIR, z);
  }
  v128.store(end - PAIR, outputOf(bt, between, u1, u2));
  next = nextFirst(bt, between, u1, u2);
  u2 = nextSecond(bt, between, u1, u2);
  v128.store(at + STATE_1, s1);
  v128.store(at + STATE_2, s2);
  v128.store(bt + STATE_1, next);
  v128.store(bt + STATE_2, u2);
}

function runOne(at: usize, signal: usize, frames: i32): void {
  let s1 = v128.load(at + STATE_1);
  let s2 = v128.load(at + STATE_2);
  const end = signal + <usize>frames * PAIR;
  for (let p = signal; p < end; p += PAIR) {
    const x = v128.load(p);
    v128.store(p, outputOf(at, x, s1, s2));
    const next = nextFirst(at, x, s1, s2);
    s2 = nextSecond(at, x, s1, s2);
    s1 = next;
  }
  v128.store(at + STATE_1, s1);
  v128.store(at + STATE_2, s2);
}

export function run(sections: usize, count: i32, signal: usize, frames: i32): void {
  let at = sections;
  for (; count > 1; count -= 2) {
    runPair(at, signal, frames);
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

export function ease(at: usize, signal: usize, frames: i32, follow: f64): void {
  const share = f64x2.splat(follow);
  const one = f64x2.splat(1);
  let s1 = v128.load(at + STATE_1);
  let s2 = v128.load(at + STATE_2);
  const end = signal + <usize>frames * PAIR;
  for (let p = signal; p < end; p += PAIR) {
    const g = eased(at, 0, share);
    const k = eased(at, PAIR, share);
    const m0 = eased(at, 2 * PAIR, share);
    const m1 = eased(at, 3 * PAIR, share);
    const m2 = eased(at, 4 * PAIR, share);
    const a1 = f64x2.div(one, f64x2.add(one, f64x2.mul(g, f64x2.add(g, k))));
    const x = v128.load(p);
    const v1 = f64x2.mul(a1, f64x2.add(s1, f64x2.mul(g, f64x2.sub(x, s2))));
    const step = f64x2.mul(g, v1);
    const v2 = f64x2.add(s2, step);
    v128.store(p, f64x2.add(f64x2.mul(m0, x), f64x2.add(f64x2.mul(m1, v1), f64x2.mul(m2, v2))));
    s1 = f64x2.sub(f64x2.add(v1, v1), s1);
    s2 = f64x2.add(v2, step);
  }
  v128.store(at + STATE_1, s1);
  v128.store(at + STATE_2, s2);
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

export function toFloats(signal: usize, floats: usize, frames: i32): void {
  for (let n: usize = 0; n < <usize>frames; n++)
    v128.store64_lane(floats + n * 8, f32x4.demote_f64x2_zero(v128.load(signal + n * PAIR)), 0);
}

export function toFloatsMono(signal: usize, floats: usize, frames: i32): void {
  for (let n: usize = 0; n < <usize>frames; n++)
    store<f32>(floats + n * 4, <f32>load<f64>(signal + n * PAIR));
}
