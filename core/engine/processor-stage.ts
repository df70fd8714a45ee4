import { latencyFramesOf, makeRunner, type ProcessorRunner, type RunSettings } from '../processors';
import { DelayLine } from '../processors/delay-line';
import { EasedValue } from '../processors/eased-value';
import { Cascade, type KeyedSection } from './cascade';
import { Fading } from './fading';
import { MAX_BLOCK } from './kernel/layout';
import { NO_KEYS, type KeyBlocks } from './keys';
import type { Processor } from './processor';
import { Sum } from './sum';

/** What a processor listens to. */
export interface CompiledKey {
  /** Null for its own strip. */
  stripId: string | null;
  /** The range of it. */
  sections: readonly KeyedSection[];
}

/** A processor that is no equalizer, as a chain runs it. */
export interface ProcessorStagePlan {
  settings: RunSettings;
  /** Null for those that listen to nothing. */
  key: CompiledKey | null;
  /** True to hear its key in its place. */
  hearsKey: boolean;
  /** How long its key waits for the sound, frames. */
  keyWait: number;
}

/** Where a thread works on one processor after the other: in its kernel's memory, since keys are filtered. */
let threadKey: Sum | undefined;
const shares = new Float64Array(MAX_BLOCK);

function copy(from: Float64Array, to: Float64Array, frames: number, at = 0): void {
  for (let n = 0; n < frames; n++) to[n] = from[at + n];
}

/** A processor that is off: as late as it is, and nothing else. */
class Off implements Processor<ProcessorStagePlan> {
  readonly warmUpFrames: number;
  readonly isSound = true;
  private readonly line: DelayLine | null;

  constructor({ settings }: ProcessorStagePlan, rateHz: number) {
    const late = latencyFramesOf(settings, rateHz);
    this.line = late > 0 ? new DelayLine(late) : null;
    this.warmUpFrames = late;
  }

  canEaseTo({ settings, hearsKey }: ProcessorStagePlan): boolean {
    return !settings.enabled && !hearsKey;
  }

  easeTo(): void {}

  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    this.line?.process(left, right, frames);
  }

  reset(): void {
    this.line?.reset();
  }

  gainDbOf(): number {
    return 0;
  }

  release(): void {}
}

/** A processor that is on, with its key. */
class On implements Processor<ProcessorStagePlan> {
  private readonly runner: ProcessorRunner<RunSettings>;
  private readonly filter: Cascade | null;
  private readonly keyLine: DelayLine | null;
  /** 1 where its key is heard in its place. */
  private readonly heard: EasedValue;
  /** So that the key, where it is heard, is as late as the sound. */
  private readonly heardLine: DelayLine | null;
  private readonly key = (threadKey ??= new Sum());

  constructor(
    private readonly plan: ProcessorStagePlan,
    rateHz: number,
  ) {
    const { settings, key, keyWait, hearsKey } = plan;
    this.runner = makeRunner(settings, rateHz);
    this.filter = key && key.sections.length > 0 ? new Cascade(key.sections, rateHz) : null;
    this.keyLine = keyWait > 0 ? new DelayLine(keyWait) : null;
    this.heard = new EasedValue(hearsKey ? 1 : 0, rateHz);
    const { latencyFrames } = this.runner;
    this.heardLine = latencyFrames > 0 ? new DelayLine(latencyFrames) : null;
  }

  private get listensElsewhere(): boolean {
    return Boolean(this.plan.key?.stripId);
  }

  canEaseTo({ settings, key, keyWait, hearsKey }: ProcessorStagePlan): boolean {
    const { plan, runner, filter } = this;
    if (!settings.enabled && !hearsKey) return false;
    if (keyWait !== plan.keyWait || key?.stripId !== plan.key?.stripId) return false;
    const sections = key?.sections ?? [];
    return (filter ? filter.canEaseTo(sections) : sections.length === 0) && runner.canBecome(settings);
  }

  easeTo({ settings, key, hearsKey }: ProcessorStagePlan): void {
    this.runner.update(settings, false);
    this.heard.set(hearsKey ? 1 : 0);
    if (key) this.filter?.easeTo(key.sections);
  }

  process(left: Float64Array, right: Float64Array | null, frames: number, keys: KeyBlocks = NO_KEYS, at = 0): void {
    const { heard, key } = this;
    const isHeard = !heard.isSettled || heard.value !== 0;
    if (!isHeard && !this.listensElsewhere && !this.keyLine && !this.filter) {
      this.runner.process(left, right, left, right, frames);
      return;
    }
    const keyRight = this.bringKey(left, right, frames, keys, at);
    this.runner.process(left, right, key.left, keyRight, frames);
    if (!isHeard) return;
    heard.fill(shares, frames);
    this.heardLine?.process(key.left, keyRight, frames);
    const other = keyRight ?? key.left;
    for (let n = 0; n < frames; n++) left[n] += shares[n] * (key.left[n] - left[n]);
    if (right) for (let n = 0; n < frames; n++) right[n] += shares[n] * (other[n] - right[n]);
  }

  /** Lays what it listens to into its key. @returns its right side; null for mono */
  private bringKey(
    left: Float64Array,
    right: Float64Array | null,
    frames: number,
    keys: KeyBlocks,
    at: number,
  ): Float64Array | null {
    const { key } = this;
    const other = this.listensElsewhere ? keys.get(this.plan.settings.id) : undefined;
    let hasRight = right !== null;
    if (this.listensElsewhere) {
      hasRight = other?.isStereo ?? false;
      if (other) copy(other.left, key.left, frames, at);
      else key.left.fill(0, 0, frames);
      if (other?.isStereo) copy(other.right, key.right, frames, at);
    } else {
      copy(left, key.left, frames);
      if (right) copy(right, key.right, frames);
    }
    const keyRight = hasRight ? key.right : null;
    this.keyLine?.process(key.left, keyRight, frames);
    this.filter?.process(key.left, keyRight, frames);
    return keyRight;
  }

  reset(): void {
    this.runner.reset();
    this.filter?.reset();
    this.keyLine?.reset();
    this.heardLine?.reset();
  }

  get isSound(): boolean {
    return this.runner.isSound && (this.filter?.isSound ?? true);
  }

  get warmUpFrames(): number {
    return this.runner.warmUpFrames + this.runner.latencyFrames + this.plan.keyWait;
  }

  gainDbOf(): number {
    return this.runner.gainDb;
  }

  release(): void {
    this.runner.release?.();
    this.filter?.release();
  }
}

/** A processor that is switched, changed and listened to without a step. */
export const processorStage = (plan: ProcessorStagePlan, rateHz: number) =>
  new Fading<ProcessorStagePlan>(
    plan,
    (wanted) => (wanted.settings.enabled || wanted.hearsKey ? new On(wanted, rateHz) : new Off(wanted, rateHz)),
    rateHz,
  );
