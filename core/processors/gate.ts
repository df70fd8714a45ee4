import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Gate } from '../song';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { EnvelopeDb, gainsFromDb, HoldDetector } from './hold-envelope';
import { framesOf, sizesOf } from './levels';
import type { ProcessorRunner } from './runner';

const depths = new Float64Array(MAX_BLOCK);
const sizes = new Float64Array(MAX_BLOCK);

/**
 * Opens when the peak of its key passes the threshold, shuts when it has stayed below threshold − hysteresis for the hold; its gain moves in
 * dB between 0 and the depth. With look-ahead the sound waits while the key does not.
 */
export class GateRunner implements ProcessorRunner<Gate> {
  readonly latencyFrames: number;
  readonly warmUpFrames: number;
  gainDb = 0;
  private readonly detector: HoldDetector;
  private readonly envelope: EnvelopeDb;
  private readonly depth: EasedValue;
  private readonly ahead: DelayLine | null;

  constructor(
    settings: Gate,
    private readonly rateHz: number,
  ) {
    this.latencyFrames = framesOf(settings.lookAheadMs, rateHz);
    this.ahead = this.latencyFrames > 0 ? new DelayLine(this.latencyFrames) : null;
    this.warmUpFrames = framesOf(Math.min(400, settings.holdMs + 2 * settings.releaseMs), rateHz);
    this.detector = new HoldDetector(rateHz);
    this.envelope = new EnvelopeDb(rateHz);
    this.depth = new EasedValue(settings.depthDb, rateHz);
    this.update(settings, true);
    this.reset();
  }

  canBecome({ lookAheadMs }: Gate): boolean {
    return framesOf(lookAheadMs, this.rateHz) === this.latencyFrames;
  }

  update(settings: Gate, immediately: boolean): void {
    this.detector.set(settings);
    this.envelope.setTimes(settings.attackMs, settings.releaseMs);
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
    this.depth.fill(depths, frames);
    // The key may be the sound itself, which the delay below changes in place.
    sizesOf(keyLeft, keyRight, sizes, frames);
    detector.run(sizes, frames);
    for (let n = 0; n < frames; n++) depths[n] *= 1 - sizes[n];
    envelope.run(depths, frames);
    gainsFromDb(depths, frames);
    this.ahead?.process(left, right, frames);
    for (let n = 0; n < frames; n++) left[n] *= depths[n];
    if (right) for (let n = 0; n < frames; n++) right[n] *= depths[n];
    this.gainDb = envelope.value;
  }

  reset(): void {
    this.detector.reset();
    this.envelope.value = this.depth.value;
    this.ahead?.reset();
  }

  get isSound(): boolean {
    return Number.isFinite(this.envelope.value);
  }
}
