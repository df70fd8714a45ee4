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

/** x − a2·w2 − a1·w1 */
@inline
function inner(x: v128, a1: v128, a2: v128, w1: v128, w2: v128): v128 {
  return f64x2.sub(f64x2.sub(x, f64x2.mul(a2, w2)), f64x2.mul(a1, w1));
}

/** b0·w + (b1·w1 + b2·w2) */
@inline
function outer(w: v128, b0: v128, b1: v128, b2: v128, w1: v128, w2: v128): v128 {
  return f64x2.add(f64x2.mul(b0, w), f64x2.add(f64x2.mul(b1, w1), f64x2.mul(b2, w2)));
}

/** Two sections at once, the second one frame behind the first, so that neither waits for the other. */
function runPair(at: usize, signal: usize, frames: i32): void {
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
  let between = outer(w, b0, b1, b2, w1, w2);
  w2 = w1;
  w1 = w;
  for (let p = signal + PAIR; p < end; p += PAIR) {
    const u = inner(between, c1, c2, u1, u2);
    w = inner(v128.load(p), a1, a2, w1, w2);
    v128.store(p - PAIR, outer(u, d0, d1, d2, u1, u2));
    between = outer(w, b0, b1, b2, w1, w2);
    u2 = u1;
    u1 = u;
    w2 = w1;
    w1 = w;
  }
  const u = inner(between, c1, c2, u1, u2);
  v128.store(end - PAIR, outer(u, d0, d1, d2, u1, u2));
  v128.store(at + STATE_1, w1);
  v128.store(at + STATE_2, w2);
  v128.store(bt + STATE_1, u);
  v128.store(bt + STATE_2, u1);
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
    v128.store(p, outer(w, b0, b1, b2, w1, w2));
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
