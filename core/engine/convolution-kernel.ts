import FFT from 'fft.js';
import type { LinearPhaseDesign } from '../filters/linear-phase';

/** Frames that a convolver takes at a time for the beginning of a response; and for what comes after it. */
export const HEAD = 512;
export const TAIL = 8192;
/** Where the tail begins: it is two of its blocks late, one that is gathered and one that is worked on, and the head one of its own. */
const TAIL_BEGINS = 2 * TAIL - HEAD;

/**
 * A stretch of a matrix of impulse responses as the spectra of its partitions, for a signal z = left + j·right: the output is `direct * z +
 * mirrored * conj(z)`, which is left in its real part and right in its imaginary one.
 */
export interface Partitions {
  count: number;
  direct: Float64Array;
  /** null where both sides pass alike. */
  mirrored: Float64Array | null;
}

/** A response as a convolver runs it. */
export interface ConvolutionKernel {
  latencyFrames: number;
  taps: number;
  /** Its beginning in short partitions, and the rest in long ones. */
  head: Partitions;
  tail: Partitions | null;
}

/** The memory of a kernel, to be handed over to another thread. */
export const kernelBuffers = ({ head, tail }: ConvolutionKernel) =>
  [head.direct, head.mirrored, tail?.direct, tail?.mirrored].flatMap((spectra) => (spectra ? [spectra.buffer] : []));

/** Spectra of the partitions of a complex response. */
function partitionSpectra(real: Float64Array, imaginary: Float64Array, frames: number): Float64Array {
  const fft = new FFT(2 * frames);
  const partitions = Math.ceil(real.length / frames);
  const spectra = new Float64Array(partitions * 4 * frames);
  const padded = new Array<number>(4 * frames).fill(0);
  const out = new Array<number>(4 * frames).fill(0);
  for (let p = 0; p < partitions; p++) {
    for (let n = 0; n < frames; n++) {
      padded[2 * n] = real[p * frames + n] ?? 0;
      padded[2 * n + 1] = imaginary[p * frames + n] ?? 0;
    }
    fft.transform(out, padded);
    spectra.set(out, p * 4 * frames);
  }
  return spectra;
}

/** A design as a convolver runs it. The latency is half of the taps, and the block that is gathered first. */
export function toKernel({ taps, leftToLeft, sides }: LinearPhaseDesign): ConvolutionKernel {
  // With l = (z + z*)/2 and r = (z − z*)/2j, out = (ll·l + rl·r) + j(lr·l + rr·r).
  const combined = (sign: 1 | -1): [Float64Array, Float64Array] =>
    sides
      ? [
          leftToLeft.map((value, n) => (value + sign * sides.rightToRight[n]) / 2),
          sides.leftToRight.map((value, n) => (value - sign * sides.rightToLeft[n]) / 2),
        ]
      : [leftToLeft, new Float64Array(taps)];
  const [direct, mirrored] = [combined(1), sides && combined(-1)];
  const stretch = (from: number, to: number, frames: number): Partitions => {
    const spectra = ([real, imaginary]: [Float64Array, Float64Array]) =>
      partitionSpectra(real.subarray(from, to), imaginary.subarray(from, to), frames);
    return { count: Math.ceil((to - from) / frames), direct: spectra(direct), mirrored: mirrored && spectra(mirrored) };
  };
  const isLong = taps > 2 * TAIL;
  return {
    taps,
    latencyFrames: taps / 2 + HEAD,
    head: stretch(0, isLong ? TAIL_BEGINS : taps, HEAD),
    tail: isLong ? stretch(TAIL_BEGINS, taps, TAIL) : null,
  };
}
