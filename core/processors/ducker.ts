import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Ducker } from '../song';
import { EasedValue } from './eased-value';
import { RangeGain } from './giving-range';
import { EnvelopeDb, gainsFromDb, HoldDetector } from './hold-envelope';
import { framesOf, sizesOf } from './levels';
import type { ProcessorRunner } from './runner';

const gains = new Float64Array(MAX_BLOCK);
const sizes = new Float64Array(MAX_BLOCK);

/** What decides the filters of a range: depth is in it, since it decides how far outside of the range they begin. */
const rangeOf = ({ range: { lowHz, highHz }, depthDb }: Ducker) => [lowHz, highHz, depthDb].join();

/** Gives way by its depth while its key is above the threshold: the whole sound, or a range of it. */
export class DuckerRunner implements ProcessorRunner<Ducker> {
  readonly latencyFrames = 0;
  readonly warmUpFrames: number;
  gainDb = 0;
  private readonly detector: HoldDetector;
  private readonly envelope: EnvelopeDb;
  private readonly depth: EasedValue;
  private readonly rangeGain: RangeGain | null;
  private readonly range: string;
  private readonly sides: (Float64Array | null)[] = [null, null];

  constructor(settings: Ducker, rateHz: number) {
    const { lowHz, highHz } = settings.range;
    this.range = rangeOf(settings);
    this.rangeGain = lowHz === null && highHz === null ? null : new RangeGain(settings.range, settings.depthDb, rateHz);
    this.warmUpFrames = framesOf(Math.min(400, settings.holdMs + 2 * settings.releaseMs), rateHz);
    this.detector = new HoldDetector(rateHz);
    this.envelope = new EnvelopeDb(rateHz);
    this.depth = new EasedValue(settings.depthDb, rateHz);
    this.update(settings, true);
  }

  canBecome(settings: Ducker): boolean {
    return this.rangeGain === null
      ? settings.range.lowHz === null && settings.range.highHz === null
      : rangeOf(settings) === this.range;
  }

  update(settings: Ducker, immediately: boolean): void {
    this.detector.set({ ...settings, hysteresisDb: 0 });
    // The gain falls in the attack.
    this.envelope.setTimes(settings.releaseMs, settings.attackMs);
    this.depth.set(settings.depthDb, immediately);
  }

  process(
    left: Float64Array,
    right: Float64Array | null,
    keyLeft: Float64Array,
    keyRight: Float64Array | null,
    frames: number,
  ): void {
    const { detector, envelope } = this;
    this.depth.fill(gains, frames);
    sizesOf(keyLeft, keyRight, sizes, frames);
    detector.run(sizes, frames);
    for (let n = 0; n < frames; n++) gains[n] *= -sizes[n];
    envelope.run(gains, frames);
    gainsFromDb(gains, frames);
    this.gainDb = envelope.value;
    if (this.rangeGain) {
      this.sides[0] = left;
      this.sides[1] = right;
      this.rangeGain.process(this.sides, gains, frames);
      return;
    }
    for (let n = 0; n < frames; n++) left[n] *= gains[n];
    if (right) for (let n = 0; n < frames; n++) right[n] *= gains[n];
  }

  reset(): void {
    this.detector.reset();
    this.envelope.value = 0;
    this.rangeGain?.reset();
  }

  get isSound(): boolean {
    return Number.isFinite(this.envelope.value) && (this.rangeGain?.isSound ?? true);
  }
}
