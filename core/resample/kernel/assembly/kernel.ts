/** The inner loops of another sample rate, for WebAssembly with SIMD (AssemblyScript; `npm run kernel` compiles it). */
import { COMPLEX, NUMBER, swapped } from '../../../measure/kernel/assembly/transform';

export { transform } from '../../../measure/kernel/assembly/transform';

/**
 * Multiplies the bins of a spectrum, which is repeated, by real gains, and exchanges real and imaginary parts: transformed again, they are samples, with
 * their parts exchanged.
 * @param factor how often it is repeated
 */
export function weigh(spectrum: usize, gains: usize, out: usize, points: i32, factor: i32): void {
  const end = spectrum + (<usize>points) * COMPLEX;
  for (let part = 0; part < factor; part++)
    for (let from = spectrum; from < end; from += COMPLEX, gains += NUMBER, out += COMPLEX)
      v128.store(out, f64x2.mul(swapped(v128.load(from)), v128.load64_splat(gains)));
}

/**
 * Samples between others.
 * @param weights for each phase, one after the other
 * @param taps of each: a multiple of four
 * @param step from one to the next, phases
 */
export function interpolate(
  samples: usize,
  weights: usize,
  taps: i32,
  phases: i32,
  step: i32,
  phase: i32,
  out: usize,
  count: i32,
): void {
  const whole = (<usize>(step / phases)) * NUMBER;
  const part = step % phases;
  const length = (<usize>taps) * NUMBER;
  for (let n = 0; n < count; n++) {
    let weight = weights + (<usize>phase) * length;
    const end = samples + length;
    let even = f64x2.splat(0);
    let odd = f64x2.splat(0);
    for (let at = samples; at < end; at += 4 * NUMBER, weight += 4 * NUMBER) {
      even = f64x2.add(even, f64x2.mul(v128.load(at), v128.load(weight)));
      odd = f64x2.add(odd, f64x2.mul(v128.load(at, 2 * NUMBER), v128.load(weight, 2 * NUMBER)));
    }
    const sum = f64x2.add(even, odd);
    store<f32>(out, <f32>(f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)));
    out += 4;
    samples += whole;
    phase += part;
    if (phase >= phases) {
      phase -= phases;
      samples += NUMBER;
    }
  }
}
