/**
 * Samples in as few bits as they have, there and back, for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it), four at a time. The plain twins are in
 * `packed-samples.ts`. What is written at the end may reach some bytes beyond.
 */
const SCALE_16: f32 = 1.0 / 32768.0;
const SCALE_24: f32 = 1.0 / 8388608.0;

/** @param count a multiple of four */
export function unpack16(from: usize, to: usize, count: i32): void {
  const scale = f32x4.splat(SCALE_16);
  const end = from + ((<usize>count) << 1);
  for (; from < end; from += 8, to += 16)
    v128.store(to, f32x4.mul(f32x4.convert_i32x4_s(v128.load16x4_s(from)), scale));
}

/** @param count a multiple of four */
export function unpack24(from: usize, to: usize, count: i32): void {
  const scale = f32x4.splat(SCALE_24);
  const end = from + (<usize>count) * 3;
  for (; from < end; from += 12, to += 16) {
    const bytes = v128.load(from);
    // The three bytes of each sample at the upper end of a word; what lies below is shifted out.
    const words = v128.shuffle<i8>(bytes, bytes, 0, 0, 1, 2, 0, 3, 4, 5, 0, 6, 7, 8, 0, 9, 10, 11);
    v128.store(to, f32x4.mul(f32x4.convert_i32x4_s(i32x4.shr_s(words, 8)), scale));
  }
}

/** The whole numbers of four samples. */
@inline
function wholeOf(scaled: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(scaled);
}

/** Bits that are set where a sample is no whole number of its size: where it is not what its number says, or needs more bits. */
@inline
function strays(scaled: v128, whole: v128, free: i32): v128 {
  const isOther = f32x4.ne(f32x4.convert_i32x4_s(whole), scaled);
  const kept = i32x4.shr_s(i32x4.shl(whole, free), free);
  return v128.or(isOther, v128.xor(kept, whole));
}

/** @param count a multiple of four. @returns 1 where all are whole numbers of 16 bits */
export function pack16(from: usize, to: usize, count: i32): i32 {
  const scale = f32x4.splat(32768.0);
  const end = from + ((<usize>count) << 2);
  let astray = i32x4.splat(0);
  for (; from < end; from += 16, to += 8) {
    const scaled = f32x4.mul(v128.load(from), scale);
    const whole = wholeOf(scaled);
    astray = v128.or(astray, strays(scaled, whole, 16));
    v128.store64_lane(to, i16x8.narrow_i32x4_s(whole, whole), 0);
  }
  return v128.any_true(astray) ? 0 : 1;
}

/** @param count a multiple of four. @returns 1 where all are whole numbers of 24 bits */
export function pack24(from: usize, to: usize, count: i32): i32 {
  const scale = f32x4.splat(8388608.0);
  const end = from + ((<usize>count) << 2);
  let astray = i32x4.splat(0);
  for (; from < end; from += 16, to += 12) {
    const scaled = f32x4.mul(v128.load(from), scale);
    const whole = wholeOf(scaled);
    astray = v128.or(astray, strays(scaled, whole, 8));
    v128.store(to, v128.shuffle<i8>(whole, whole, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 0, 0, 0, 0));
  }
  return v128.any_true(astray) ? 0 : 1;
}
