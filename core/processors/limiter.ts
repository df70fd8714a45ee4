import { TRUE_PEAK_TAPS } from '../measure/true-peak';
import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Limiter } from '../song';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { peakLoop } from './kernel/kernel';
import { fromDb, framesOf, keptPerFrame, SlidingMaximum, toDb } from './levels';
import type { ProcessorRunner } from './runner';

const ceilings = new Float64Array(MAX_BLOCK);
const gains = new Float64Array(MAX_BLOCK);

/** The values between samples are known half the taps late, and reach as far to both sides of the sample that they lie beside. */
export const limiterLatency = ({ lookAheadMs }: Limiter, rateHz: number) =>
  framesOf(lookAheadMs, rateHz) + TRUE_PEAK_TAPS;

/**
 * Lets no true peak (ITU-R BS.1770-4, annex 2: fourfold oversampling) above its ceiling. The gain that each peak wants is held for the
 * look-ahead, follows an exponential on its way back, and is smoothed by a mean over the look-ahead, which reaches the wanted gain just when
 * the peak arrives.
 */
export class LimiterRunner implements ProcessorRunner<Limiter> {
  readonly latencyFrames: number;
  readonly warmUpFrames: number;
  gainDb = 0;
  private readonly look: number;
  private readonly line: DelayLine;
  private readonly peaks = peakLoop();
  private readonly hold: SlidingMaximum;
  private readonly ceiling: EasedValue;
  private kept = 0;
  /** What is taken away, as 1 − gain: after the release, in the mean, and their sum. */
  private released = 0;
  private readonly window: Float64Array;
  private windowAt = 0;
  private sum = 0;

  constructor(
    settings: Limiter,
    private readonly rateHz: number,
  ) {
    this.look = framesOf(settings.lookAheadMs, rateHz);
    this.latencyFrames = limiterLatency(settings, rateHz);
    this.line = new DelayLine(this.latencyFrames);
    this.hold = new SlidingMaximum(this.look + TRUE_PEAK_TAPS + 1);
    this.window = new Float64Array(this.look);
    this.warmUpFrames = this.latencyFrames + framesOf(Math.min(300, 2 * settings.releaseMs), rateHz);
    this.ceiling = new EasedValue(fromDb(settings.ceilingDb), rateHz);
    this.update(settings, true);
  }

  canBecome({ lookAheadMs }: Limiter): boolean {
    return framesOf(lookAheadMs, this.rateHz) === this.look;
  }

  update({ ceilingDb, releaseMs }: Limiter, immediately: boolean): void {
    this.ceiling.set(fromDb(ceilingDb), immediately);
    this.kept = keptPerFrame(releaseMs, this.rateHz);
  }

  process(left: Float64Array, right: Float64Array | null, _l: Float64Array, _r: unknown, frames: number): void {
    this.ceiling.fill(ceilings, frames);
    gains.fill(0, 0, frames);
    this.peaks.run(left, right, ceilings, gains, frames);
    for (let n = 0; n < frames; n++) gains[n] = gains[n] > ceilings[n] ? 1 - ceilings[n] / gains[n] : 0;
    this.hold.run(gains, frames);
    const least = this.smooth(frames);
    this.line.process(left, right, frames);
    for (let n = 0; n < frames; n++) left[n] *= gains[n];
    if (right) for (let n = 0; n < frames; n++) right[n] *= gains[n];
    this.gainDb = toDb(least);
  }

  /** What is to be taken away becomes gains: after the release, in the mean over the look-ahead. @returns the least of them */
  private smooth(frames: number): number {
    const { window, look, kept } = this;
    let { released, sum, windowAt } = this;
    let least = 1;
    for (let n = 0; n < frames; n++) {
      const wanted = gains[n];
      const falling = wanted + kept * (released - wanted);
      released = wanted >= released ? wanted : falling < 1e-9 ? 0 : falling;
      sum += released - window[windowAt];
      window[windowAt] = released;
      if (++windowAt === look) {
        windowAt = 0;
        // Rounding does not add up.
        sum = 0;
        for (let i = 0; i < look; i++) sum += window[i];
      }
      const gain = sum > 0 ? 1 - sum / look : 1;
      gains[n] = gain;
      if (gain < least) least = gain;
    }
    this.released = released;
    this.sum = sum;
    this.windowAt = windowAt;
    return least;
  }

  reset(): void {
    this.peaks.reset();
    this.line.reset();
    this.hold.reset();
    this.window.fill(0);
    this.released = this.sum = this.windowAt = 0;
  }

  release(): void {
    this.peaks.release();
  }

  get isSound(): boolean {
    return Number.isFinite(this.sum) && this.peaks.isSound;
  }
}
