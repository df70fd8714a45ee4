import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Echo } from '../song';
import { EasedValue } from './eased-value';
import { fromDb, framesOf } from './levels';
import { RangeFilter } from './range-filter';
import type { ProcessorRunner } from './runner';

const LONGEST_MS = 4000;
/** A change of time goes over from the one to the other in so long. */
const CROSS_MS = 40;

const feedbacks = new Float64Array(MAX_BLOCK);
const wets = new Float64Array(MAX_BLOCK);
const dries = new Float64Array(MAX_BLOCK);
const heard = { left: new Float64Array(MAX_BLOCK), right: new Float64Array(MAX_BLOCK) };

/**
 * A delay line whose output comes back into it through a range of frequencies. Where sides cross, what was left comes back right. The time may
 * be a fraction of a frame (cubic Lagrange between four); a change of it is cross-faded.
 */
export class EchoRunner implements ProcessorRunner<Echo> {
  readonly latencyFrames = 0;
  readonly warmUpFrames = 0;
  readonly gainDb = 0;
  private readonly lines: [Float64Array, Float64Array];
  private readonly mask: number;
  private at = 0;
  private delay: number;
  private nextDelay: number;
  /** Where a change that is under way leads. */
  private aimed = 0;
  private crossed = 0;
  private readonly crossFrames: number;
  private readonly crossing: boolean;
  private readonly feedback: EasedValue;
  private readonly wet: EasedValue;
  private readonly dry: EasedValue;
  private readonly filter: RangeFilter;

  constructor(
    settings: Echo,
    private readonly rateHz: number,
  ) {
    const room = 2 ** Math.ceil(Math.log2((LONGEST_MS / 1000) * rateHz + 8));
    this.lines = [new Float64Array(room), new Float64Array(room)];
    this.mask = room - 1;
    this.delay = this.nextDelay = this.framesIn(settings);
    this.crossFrames = framesOf(CROSS_MS, rateHz);
    this.crossing = settings.crossing;
    this.feedback = new EasedValue(settings.feedbackPercent / 100, rateHz);
    this.wet = new EasedValue(fromDb(settings.wetDb), rateHz);
    this.dry = new EasedValue(settings.dry ? 1 : 0, rateHz);
    this.filter = new RangeFilter(settings.range, rateHz);
  }

  private framesIn({ timeMs }: Echo): number {
    return Math.max(2, (timeMs * this.rateHz) / 1000);
  }

  canBecome({ crossing, range }: Echo): boolean {
    return crossing === this.crossing && this.filter.canBecome(range);
  }

  update(settings: Echo, immediately: boolean): void {
    this.nextDelay = this.framesIn(settings);
    if (immediately) this.delay = this.nextDelay;
    this.feedback.set(settings.feedbackPercent / 100, immediately);
    this.wet.set(fromDb(settings.wetDb), immediately);
    this.dry.set(settings.dry ? 1 : 0, immediately);
    this.filter.set(settings.range, immediately);
  }

  /** What went in so many frames ago. */
  private read(line: Float64Array, frames: number): number {
    const { mask } = this;
    const whole = Math.floor(frames);
    const f = frames - whole;
    const place = this.at - whole;
    if (f === 0) return line[place & mask];
    const a = line[(place + 1) & mask];
    const b = line[place & mask];
    const c = line[(place - 1) & mask];
    const d = line[(place - 2) & mask];
    return (
      (-a * f * (f - 1) * (f - 2)) / 6 +
      (b * (f + 1) * (f - 1) * (f - 2)) / 2 -
      (c * (f + 1) * f * (f - 2)) / 2 +
      (d * (f + 1) * f * (f - 1)) / 6
    );
  }

  private readBoth(line: Float64Array): number {
    const now = this.read(line, this.delay);
    if (this.crossed === 0) return now;
    const share = this.crossed / this.crossFrames;
    const smooth = share * share * (3 - 2 * share);
    return now + smooth * (this.read(line, this.aimed) - now);
  }

  process(left: Float64Array, right: Float64Array | null, _l: Float64Array, _r: unknown, frames: number): void {
    this.feedback.fill(feedbacks, frames);
    this.wet.fill(wets, frames);
    this.dry.fill(dries, frames);
    const [first, second] = this.lines;
    const crosses = this.crossing && right !== null;
    for (let n = 0; n < frames; n++) {
      if (this.crossed > 0 || this.delay !== this.nextDelay) {
        if (this.crossed === 0) this.aimed = this.nextDelay;
        this.crossed++;
      }
      const echoLeft = this.filter.next(0, this.readBoth(first));
      heard.left[n] = echoLeft;
      let echoRight = 0;
      if (right) {
        echoRight = this.filter.next(1, this.readBoth(second));
        heard.right[n] = echoRight;
      }
      const place = this.at & this.mask;
      if (crosses) {
        // All of it goes in on the left, so that it changes sides each time.
        first[place] = (left[n] + right![n]) / 2 + feedbacks[n] * echoRight;
        second[place] = feedbacks[n] * echoLeft;
      } else {
        first[place] = left[n] + feedbacks[n] * echoLeft;
        if (right) second[place] = right[n] + feedbacks[n] * echoRight;
      }
      this.at = (this.at + 1) & this.mask;
      if (this.crossed >= this.crossFrames) {
        this.delay = this.aimed;
        this.crossed = 0;
      }
    }
    for (let n = 0; n < frames; n++) left[n] = dries[n] * left[n] + wets[n] * heard.left[n];
    if (right) for (let n = 0; n < frames; n++) right[n] = dries[n] * right[n] + wets[n] * heard.right[n];
  }

  reset(): void {
    for (const line of this.lines) line.fill(0);
    this.filter.reset();
  }

  get isSound(): boolean {
    return this.lines.every((line) => line.every(Number.isFinite));
  }
}
