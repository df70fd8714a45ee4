/** The limiter's loop: see `peak-loop.ts`. */
import { CHUNK, dot, keep, PAIR, TAP } from './filter';

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
