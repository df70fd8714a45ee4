/** What the loops share: each vector holds the left and the right sample of a frame. */
export const PAIR: usize = 16;
export const TAP: usize = 8;
/** Frames that are worked on at a time: what they become fits into the fastest memory. */
export const CHUNK: i32 = 64;

/** The sum of products of some taps with samples that lie one before the other. @param step bytes from one sample to the one before */
@inline
export function dot(taps: usize, count: i32, latest: usize, step: usize): v128 {
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

/** What the filters still need of the past is moved to where the past lies. */
@inline
export function keep(signal: usize, past: i32, used: i32): void {
  memory.copy(signal, signal + <usize>used * PAIR, <usize>past * PAIR);
}
