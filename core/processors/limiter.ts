import { TRUE_PEAK_PHASES, TRUE_PEAK_TAPS } from '../measure/true-peak';
import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Limiter } from '../song';
import { dot } from './dot';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { fromDb, framesOf, keptPerFrame, SlidingMaximum, toDb } from './levels';
import type { ProcessorRunner } from './runner';

const ceilings = new Float64Array(MAX_BLOCK);
const gains = new Float64Array(MAX_BLOCK);
const HALF = TRUE_PEAK_TAPS / 2;
/** Latest sample first. */
const PHASES = TRUE_PEAK_PHASES.map((taps) => taps.slice().reverse());
/** No value between samples is larger than the largest of those that take part in it, times this. */
const MOST_GAIN = Math.max(...PHASES.map((taps) => taps.reduce((sum, tap) => sum + Math.abs(tap), 0)));

/** The greatest value of one side at, and between, its samples; half the taps late. */
class PeakAhead {
  private readonly past = new Float64Array(2 * TRUE_PEAK_TAPS);
  private at = 0;
  /** Frames for which something loud enough is still among those that are looked at. */
  private loud = 0;

  /**
   * Raises what is known of peaks to those of its samples.
   * @param worth below this nothing needs to be known: values between samples are left out where they cannot reach it
   */
  run(samples: Float64Array, worth: Float64Array, peaks: Float64Array, frames: number): void {
    const { past } = this;
    let { at, loud } = this;
    for (let n = 0; n < frames; n++) {
      const sample = samples[n];
      loud = Math.abs(sample) * MOST_GAIN > worth[n] ? TRUE_PEAK_TAPS : loud - 1;
      at = at === 0 ? TRUE_PEAK_TAPS - 1 : at - 1;
      past[at] = past[at + TRUE_PEAK_TAPS] = sample;
      let peak = Math.max(peaks[n], Math.abs(past[at + HALF]), Math.abs(past[at + HALF - 1]));
      if (loud > 0) for (let i = 0; i < PHASES.length; i++) peak = Math.max(peak, Math.abs(dot(PHASES[i], past, at)));
      peaks[n] = peak;
    }
    this.at = at;
    this.loud = loud;
  }

  reset(): void {
    this.loud = 0;
    this.past.fill(0);
  }

  get isSound(): boolean {
    return this.past.every(Number.isFinite);
  }
}

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
  private readonly peaks = [new PeakAhead(), new PeakAhead()];
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
    this.peaks[0].run(left, ceilings, gains, frames);
    if (right) this.peaks[1].run(right, ceilings, gains, frames);
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
    for (const side of this.peaks) side.reset();
    this.line.reset();
    this.hold.reset();
    this.window.fill(0);
    this.released = this.sum = this.windowAt = 0;
  }

  get isSound(): boolean {
    return Number.isFinite(this.sum) && this.peaks.every(({ isSound }) => isSound);
  }
}
