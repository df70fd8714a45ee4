import FFT from 'fft.js';
import { kaiser, sineCardinal } from '../filters/kaiser';
import { interleavePair } from '../measure/kernel/kernel';
import { compiledLoops, HELD_SAMPLES, plainLoops, type ResampleDesign, type ResampleLoops } from './kernel/kernel';
import { Line } from './line';

/**
 * Brings sound to another rate in two steps: a long linear-phase low-pass, worked out by overlap-save, takes away what the lower of both rates cannot
 * hold (and doubles the rate where there is little room above that); short polyphase filters then take the samples between those.
 * Sources: R. E. Crochiere and L. R. Rabiner, Multirate Digital Signal Processing, 1983 (rational factors by polyphase filters, overlap-save); length
 * and shape of the filters: J. F. Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", Proc. IEEE ISCAS (1974).
 */

/** What a filter stops is so far down, dB. */
const DOWN_DB = 150;
const BETA = 0.1102 * (DOWN_DB - 8.7);
/** Up to this share of half the lower rate everything passes; from half of it on nothing does. */
const PASSED = 0.96;
/** At a rate of so many times the bandwidth the filters between samples are short. */
const ROOMY = 3;
/** A transform is so many times as long as its filter, or more. */
const LEAST_SHARE = 8;
const LEAST_POINTS = 4096;

/** Taps of a low-pass by Kaiser's formula. @param transition how wide it is, a share of its rate */
const tapsFor = (transition: number) => (DOWN_DB - 8) / (2.285 * 2 * Math.PI * transition);

function greatestDivisor(a: number, b: number): number {
  return b === 0 ? a : greatestDivisor(b, a % b);
}

/** Both filters between two rates. */
interface Design extends ResampleDesign {
  /** What the first one multiplies the rate by. */
  factor: 1 | 2;
  /** Samples that come in, on each side of a block, to which the first one reaches. */
  reach: number;
}

/**
 * What a filter about sample 0 does to each bin: real, since it is symmetric.
 * @param half taps on each side of the middle one
 * @param corner where it is 6 dB down, share of half its rate
 */
function gainsOf(size: number, half: number, corner: number): Float64Array {
  const fft = new FFT(size);
  const taps = new Float64Array(2 * size);
  for (let n = -half; n <= half; n++)
    taps[2 * ((n + size) % size)] = corner * sineCardinal(corner * n) * kaiser(n / (half + 1), BETA);
  const response = new Float64Array(2 * size);
  fft.transform(response, taps);
  return Float64Array.from({ length: size }, (_, k) => response[2 * k]);
}

function designOf(fromHz: number, toHz: number): Design {
  const bandHz = Math.min(fromHz, toHz) / 2;
  const factor = fromHz >= ROOMY * bandHz ? 1 : 2;
  const middleHz = fromHz * factor;
  const half = Math.ceil(tapsFor(((1 - PASSED) * bandHz) / middleHz) / 2);
  let size = LEAST_POINTS;
  while (size < LEAST_SHARE * 2 * half) size *= 2;
  // Samples among zeros, where the rate is doubled, have half their amplitude; and the way back is not scaled.
  const gains = gainsOf(size, half, (bandHz * (1 + PASSED)) / middleHz).map((gain) => (gain * factor) / size);

  const divisor = greatestDivisor(middleHz, toHz);
  const phases = toHz / divisor;
  const side = 2 * Math.ceil(tapsFor(1 - (2 * bandHz) / middleHz) / 4 + 0.5);
  const taps = 2 * side;
  const weights = Float64Array.from({ length: phases * taps }, (_, i) => {
    const x = (i % taps) - (side - 1) - Math.floor(i / taps) / phases;
    return sineCardinal(x) * kaiser(x / side, BETA);
  });
  return {
    factor,
    reach: Math.ceil(half / factor),
    points: size / factor,
    gains,
    weights,
    taps,
    step: middleHz / divisor,
  };
}

/**
 * Brings a recording to another sample rate, piece by piece: flat to 96 % of half the lower rate, nothing from half of it on, no delay. The length is
 * that of what came in times the ratio, rounded.
 */
export class Resampler {
  private readonly design: Design;
  private readonly loops: ResampleLoops;
  /** Samples that a window adds, of each of the two signals in it. */
  private readonly hop: number;
  /** What came in, and what came through the first filter, by channel. */
  private readonly incoming: readonly Line[];
  private readonly limited: readonly Line[];
  private phase = 0;
  private framesIn = 0;
  private framesOut = 0;

  /**
   * @param fromHz the rate that comes in, whole hertz
   * @param toHz the rate that is wanted, whole hertz
   * @param isPlain true for the loops without the compiled kernel
   */
  constructor(
    private readonly fromHz: number,
    private readonly toHz: number,
    private readonly channels: 1 | 2,
    isPlain = false,
  ) {
    this.design = designOf(fromHz, toHz);
    const { points, reach, taps } = this.design;
    this.loops = (isPlain ? null : compiledLoops(this.design)) ?? plainLoops(this.design);
    this.hop = points - 2 * reach;
    // Silence lies before the first sample.
    this.incoming = Array.from({ length: channels }, () => new Line(reach));
    this.limited = Array.from({ length: channels }, () => new Line(taps / 2 - 1));
  }

  /** @param sides one array for each channel, equal lengths @returns what is ready, one array for each channel, equal lengths */
  push(sides: readonly ArrayLike<number>[]): Float32Array[] {
    this.framesIn += sides[0].length;
    return this.convert(sides, Infinity);
  }

  /** Nothing follows. @returns the rest */
  finish(): Float32Array[] {
    const left = Math.round((this.framesIn * this.toHz) / this.fromHz) - this.framesOut;
    const rest = Array.from({ length: this.channels }, () => new Float32Array(left));
    const silence = Array.from({ length: this.channels }, () => new Float64Array(this.hop));
    for (let done = 0; done < left;) {
      const made = this.convert(silence, left - done);
      for (let c = 0; c < this.channels; c++) rest[c].set(made[c], done);
      done += made[0].length;
    }
    return rest;
  }

  private convert(sides: readonly ArrayLike<number>[], most: number): Float32Array[] {
    this.incoming.forEach((line, c) => line.put(sides[c]));
    this.limit();
    const made = this.drain(most);
    this.framesOut += made[0].length;
    return made;
  }

  /** Runs whole windows through the first filter: of two channels one of both, of one channel two, one after the other. */
  private limit(): void {
    const { hop, loops, limited } = this;
    const { reach, factor, points } = this.design;
    const [first, second = first] = this.incoming;
    const isMono = this.channels === 1;
    const secondAt = isMono ? hop : 0;
    while (first.length >= secondAt + points) {
      interleavePair(loops.window, first.samples, 0, second.samples, secondAt);
      const filtered = loops.filter().subarray(2 * reach * factor, 2 * (reach + hop) * factor);
      limited[0].putEvery(filtered, 1);
      (isMono ? limited[0] : limited[1]).putEvery(filtered, 0);
      for (const line of this.incoming) line.drop(secondAt + hop);
    }
  }

  /** Takes samples between those that came through, as many as have all their neighbours. */
  private drain(most: number): Float32Array[] {
    const { taps, step, weights } = this.design;
    const phases = weights.length / taps;
    const places = this.limited[0].length - taps + 1;
    const count = Math.min(most, Math.max(0, Math.ceil((places * phases - this.phase) / step)));
    const made = this.limited.map((line) => this.between(line.samples, count, phases));
    const end = this.phase + count * step;
    for (const line of this.limited) line.drop(Math.floor(end / phases));
    this.phase = end % phases;
    return made;
  }

  private between(samples: Float64Array, count: number, phases: number): Float32Array {
    const { taps, step } = this.design;
    const { held, interpolate } = this.loops;
    const out = new Float32Array(count);
    const atOnce = Math.floor(((HELD_SAMPLES - taps) * phases) / Math.max(step, phases));
    for (let done = 0; done < count; done += atOnce) {
      const from = this.phase + done * step;
      const at = Math.floor(from / phases);
      const run = Math.min(atOnce, count - done);
      held.set(samples.subarray(at, Math.min(samples.length, at + HELD_SAMPLES)));
      out.set(interpolate(from % phases, run).subarray(0, run), done);
    }
    return out;
  }
}
