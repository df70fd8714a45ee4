import { kaiser, sineCardinal } from '../filters/kaiser';
import { MAX_BLOCK } from './kernel/layout';
import type { Reader, SampleSource } from './source';

/** What a fraction of a frame is interpolated from: so many frames, half of them on each side. */
const TAPS = 64;
const HALF = TAPS / 2;
/** Of Kaiser's window: with so many taps within 0.01 dB to 0.9 of half the rate, what is above falls away. */
const BETA = 8;
/** Frames that are interpolated at a time. */
const PIECE = 1024;
/** So many frames beside those that are asked for are read. */
export const SHIFT_TAPS = HALF;

/** Weights of the frames from −31 on to +32 about a place that lies so far behind a frame: a windowed sine cardinal whose sum is 1. @param fraction −0.5 to 0.5 */
function sincWeights(fraction: number): Float64Array {
  const weights = Float64Array.from({ length: TAPS }, (_, i) => {
    const x = i - (HALF - 1) - fraction;
    return sineCardinal(x) * kaiser(x / (HALF + 1), BETA);
  });
  const sum = weights.reduce((total, weight) => total + weight, 0);
  return weights.map((weight) => weight / sum);
}

/** A recording that sounds later, or earlier, by any number of frames: it is read elsewhere, so that nothing waits for it. */
export class ShiftedSource implements SampleSource {
  readonly channels: 1 | 2;
  readonly has?: (frame: number, count: number) => boolean;
  readonly readFloats?: (frame: number, count: number, sides: readonly Float32Array[]) => void;
  private readonly whole: number;
  /** Null where no fraction of a frame is left. */
  private readonly weights: Float64Array | null;
  private readonly around: readonly [Float64Array, Float64Array];
  private readonly piece: readonly [Float64Array, Float64Array];

  /** @param delayFrames how much later it sounds; fractions of a frame too */
  constructor(
    private readonly source: SampleSource,
    delayFrames: number,
  ) {
    this.channels = source.channels;
    this.whole = Math.round(delayFrames);
    const fraction = this.whole - delayFrames;
    this.weights = Math.abs(fraction) < 1e-6 ? null : sincWeights(fraction);
    const room = (frames: number) => [new Float64Array(frames), new Float64Array(frames)] as const;
    this.around = room(this.weights ? PIECE + TAPS : 0);
    this.piece = room(this.weights ? PIECE : 0);
    const beside = this.weights ? HALF : 0;
    if (source.has) this.has = (frame, count) => source.has!(frame - this.whole - beside, count + 2 * beside);
    if (source.readFloats)
      this.readFloats = (frame, count, sides) =>
        this.weights
          ? this.interpolate(frame, count, sides[0], sides[1])
          : source.readFloats!(frame - this.whole, count, sides);
  }

  read(frame: number, count: number, left: Float64Array, right: Float64Array): void {
    if (this.weights) this.interpolate(frame, count, left, right);
    else this.source.read(frame - this.whole, count, left, right);
  }

  private interpolate(
    frame: number,
    count: number,
    left: Float64Array | Float32Array,
    right: Float64Array | Float32Array,
  ): void {
    const { around, piece, channels } = this;
    for (let done = 0; done < count; done += PIECE) {
      const frames = Math.min(PIECE, count - done);
      this.source.read(frame + done - this.whole - (HALF - 1), frames + TAPS - 1, around[0], around[1]);
      for (let c = 0; c < channels; c++) {
        this.weigh(around[c], piece[c], frames);
        const out = c === 0 ? left : right;
        const own = piece[c];
        for (let n = 0; n < frames; n++) out[done + n] = own[n];
      }
    }
  }

  private weigh(from: Float64Array, to: Float64Array, frames: number): void {
    const weights = this.weights!;
    // Four at a time, which share what they read; what lies behind the last is not asked for.
    for (let n = 0; n < frames; n += 4) {
      let [a, b, c, d] = [0, 0, 0, 0];
      let first = from[n];
      let second = from[n + 1];
      let third = from[n + 2];
      for (let k = 0; k < TAPS; k++) {
        const weight = weights[k];
        const fourth = from[n + k + 3];
        a += weight * first;
        b += weight * second;
        c += weight * third;
        d += weight * fourth;
        first = second;
        second = third;
        third = fourth;
      }
      to[n] = a;
      to[n + 1] = b;
      to[n + 2] = c;
      to[n + 3] = d;
    }
  }
}

const FADE_SECONDS = 0.02;

/** A recording whose delay is changed while it sounds: the old place and the new one are blended. */
export class MovableShift {
  private now: SampleSource;
  private next: SampleSource | null = null;
  /** What is wanted since then. */
  private afterNext: SampleSource | null = null;
  private share = 0;
  private readonly step: number;
  private readonly left = new Float64Array(MAX_BLOCK);
  private readonly right = new Float64Array(MAX_BLOCK);

  constructor(
    private readonly source: SampleSource,
    private delayFrames: number,
    rateHz: number,
  ) {
    this.now = this.at(delayFrames);
    this.step = 1 / (FADE_SECONDS * rateHz);
  }

  private at(delayFrames: number): SampleSource {
    return delayFrames === 0 ? this.source : new ShiftedSource(this.source, delayFrames);
  }

  /** True where it is nothing but the recording. */
  get isPlain(): boolean {
    return this.now === this.source && !this.next;
  }

  /** @param immediately true where nothing is heard */
  moveTo(delayFrames: number, immediately: boolean): void {
    if (delayFrames === this.delayFrames && !(immediately && this.next)) return;
    this.delayFrames = delayFrames;
    const wanted = this.at(delayFrames);
    if (immediately) [this.now, this.next, this.afterNext] = [wanted, null, null];
    else if (this.next) this.afterNext = wanted;
    else [this.next, this.share] = [wanted, 0];
  }

  has(frame: number, count: number): boolean {
    return (this.now.has?.(frame, count) ?? true) && (this.next?.has?.(frame, count) ?? true);
  }

  read(reader: Reader, frame: number, count: number, left: Float64Array, right: Float64Array): void {
    reader.read(this.now, frame, count, left, right);
    const { next } = this;
    if (!next) return;
    reader.read(next, frame, count, this.left, this.right);
    for (let n = 0; n < count; n++) {
      this.share = Math.min(1, this.share + this.step);
      left[n] += this.share * (this.left[n] - left[n]);
      if (next.channels === 2) right[n] += this.share * (this.right[n] - right[n]);
    }
    if (this.share === 1) [this.now, this.next, this.afterNext, this.share] = [next, this.afterNext, null, 0];
  }
}
