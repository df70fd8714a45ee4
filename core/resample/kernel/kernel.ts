import FFT from 'fft.js';
import { kernelExports } from '../../wasm/instance';
import { twiddlesOf } from '../../wasm/twiddles';
import { RESAMPLE_KERNEL_BASE64 } from './kernel-bytes';

/** The loops of another sample rate: compiled to WebAssembly with SIMD and, where that is missing or has no room, plain. */

/** See `assembly/kernel.ts`; places are bytes from the beginning of the memory. */
interface Exports {
  memory: WebAssembly.Memory;
  transform(input: number, other: number, twiddles: number, size: number): number;
  weigh(spectrum: number, gains: number, out: number, points: number, factor: number): void;
  interpolate(
    samples: number,
    weights: number,
    taps: number,
    phases: number,
    step: number,
    phase: number,
    out: number,
    count: number,
  ): void;
}

/** What the loops work by. */
export interface ResampleDesign {
  /** Samples of a window that goes through the filter: a power of two, 4 at least. */
  points: number;
  /** What the filter does to each bin of what comes out, scaled by their number: as many as `points`, or twice as many for twice the rate. */
  gains: Float64Array;
  /** By which a sample is taken between others: for each phase `taps` of them. */
  weights: Float64Array;
  /** A multiple of four. */
  taps: number;
  /** From one sample that is taken to the next, phases. */
  step: number;
}

export interface ResampleLoops {
  /** Samples of two signals in turn: written before the filter runs, and lost in it. */
  readonly window: Float64Array;
  /**
   * Runs a window through the filter; it is circular, so that what lies at the ends is not to be used.
   * @returns samples of both in turn, the second signal's first; valid until the next run
   */
  filter(): Float64Array;
  /** Samples of one signal, {@link HELD_SAMPLES} at most. */
  readonly held: Float64Array;
  /** Takes samples between those that are held. @param phase of the first one @returns them; valid until the next run */
  interpolate(phase: number, count: number): Float32Array;
}

export const HELD_SAMPLES = 16384;
/** What lies before is the compiler's. */
const FIRST_BYTE = 65536;
const ALIGNMENT = 16;

/** @returns null where WebAssembly or its SIMD is missing, or where there is not room enough */
export function compiledLoops({ points, gains, weights, taps, step }: ResampleDesign): ResampleLoops | null {
  const wasm = kernelExports<Exports>(RESAMPLE_KERNEL_BASE64);
  const size = gains.length;
  const counts = [2 * size, 2 * size, 2 * points, 2 * size, size, weights.length, HELD_SAMPLES, HELD_SAMPLES];
  let next = FIRST_BYTE;
  const at = counts.map((count) => {
    const place = next;
    next += ALIGNMENT * Math.ceil((8 * count) / ALIGNMENT);
    return place;
  });
  if (!wasm || next > wasm.memory.buffer.byteLength) return null;
  const numbers = (place: number, count: number) => new Float64Array(wasm.memory.buffer, place, count);
  const [input, other, there, back, gainsAt, weightsAt, heldAt, outAt] = at;
  numbers(there, 2 * points).set(twiddlesOf(points));
  numbers(back, 2 * size).set(twiddlesOf(size));
  numbers(gainsAt, size).set(gains);
  numbers(weightsAt, weights.length).set(weights);
  const out = new Float32Array(wasm.memory.buffer, outAt, HELD_SAMPLES);
  return {
    window: numbers(input, 2 * points),
    filter: () => {
      const spectrum = wasm.transform(input, other, there, points);
      const free = spectrum === other ? input : other;
      wasm.weigh(spectrum, gainsAt, free, points, size / points);
      return numbers(wasm.transform(free, spectrum, back, size), 2 * size);
    },
    held: numbers(heldAt, HELD_SAMPLES),
    interpolate: (phase, count) => {
      wasm.interpolate(heldAt, weightsAt, taps, weights.length / taps, step, phase, outAt, count);
      return out;
    },
  };
}

/** The same without the compiled kernel: its reference. */
export function plainLoops({ points, gains, weights, taps, step }: ResampleDesign): ResampleLoops {
  const size = gains.length;
  const phases = weights.length / taps;
  const [there, back] = [new FFT(points), new FFT(size)];
  const [window, spectrum] = [new Float64Array(2 * points), new Float64Array(2 * points)];
  const [weighed, filtered] = [new Float64Array(2 * size), new Float64Array(2 * size)];
  const held = new Float64Array(HELD_SAMPLES);
  const out = new Float32Array(HELD_SAMPLES);
  return {
    window,
    filter: () => {
      there.transform(spectrum, window);
      for (let bin = 0; bin < size; bin++) {
        const from = 2 * (bin % points);
        weighed[2 * bin] = gains[bin] * spectrum[from + 1];
        weighed[2 * bin + 1] = gains[bin] * spectrum[from];
      }
      back.transform(filtered, weighed);
      return filtered;
    },
    held,
    interpolate: (first, count) => {
      let [at, phase] = [0, first];
      for (let n = 0; n < count; n++) {
        // Added up in the order in which the compiled loop does it.
        const sums = [0, 0, 0, 0];
        for (let tap = 0; tap < taps; tap++) sums[tap % 4] += weights[phase * taps + tap] * held[at + tap];
        out[n] = sums[0] + sums[2] + (sums[1] + sums[3]);
        phase += step;
        at += Math.floor(phase / phases);
        phase %= phases;
      }
      return out;
    },
  };
}
