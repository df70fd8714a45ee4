import { Cascade, type Between, type KeyedSection } from './cascade';
import type { ConvolutionKernel } from './convolution-kernel';
import { Convolver } from './convolver';
import { Fading } from './fading';
import { NO_KEYS, type KeyBlocks } from './keys';
import type { Processor } from './processor';
import { opensSides } from '../song';
import { processorStage, type ProcessorStagePlan } from './processor-stage';

/** A stage of a chain with all that it needs to run. */
export type Stage =
  | { kind: 'cascade'; sections: readonly KeyedSection[] }
  | { kind: 'convolution'; key: string; kernel: ConvolutionKernel }
  | { kind: 'processor'; id: string; plan: ProcessorStagePlan };

/** A cascade whose sections may come and go. */
export const fadingCascade = (sections: readonly KeyedSection[], rateHz: number) =>
  new Fading<readonly KeyedSection[]>(sections, (wanted) => new Cascade(wanted, rateHz), rateHz);

type Runner =
  | { kind: 'cascade'; processor: Fading<readonly KeyedSection[]> }
  | { kind: 'convolution'; key: string; processor: Convolver }
  | { kind: 'processor'; id: string; processor: Fading<ProcessorStagePlan> };

function setTo<Settings>(fading: Fading<Settings>, settings: Settings, immediately: boolean): void {
  if (immediately) fading.jumpTo(settings);
  else fading.easeTo(settings);
}

/** What goes into a chain. */
export interface ChainInput {
  /** True where both sides are the same. */
  isMono: boolean;
}

/** The stages of a chain, one after the other. What is mono is worked on once, up to the stage that makes two sides of it. */
export class ChainStages implements Processor<readonly Stage[]> {
  private readonly runners: Runner[];
  private readonly opensAt: number;

  constructor(
    stages: readonly Stage[],
    rateHz: number,
    private readonly input: ChainInput,
  ) {
    const opensAt = stages.findIndex((stage) => stage.kind === 'processor' && opensSides(stage.plan.settings));
    this.opensAt = opensAt < 0 ? stages.length : opensAt;
    this.runners = stages.map((stage): Runner => {
      switch (stage.kind) {
        case 'cascade':
          return { kind: stage.kind, processor: fadingCascade(stage.sections, rateHz) };
        case 'convolution':
          return { kind: stage.kind, key: stage.key, processor: new Convolver(stage.kernel, rateHz, stage.key) };
        case 'processor':
          return { kind: stage.kind, id: stage.id, processor: processorStage(stage.plan, rateHz) };
      }
    });
  }

  canEaseTo(stages: readonly Stage[]): boolean {
    return (
      stages.length === this.runners.length &&
      this.runners.every((runner, i) => {
        const stage = stages[i];
        if (runner.kind === 'convolution' && stage.kind === 'convolution')
          return runner.key === stage.key && runner.processor.canEaseTo(stage.kernel);
        if (runner.kind === 'processor' && stage.kind === 'processor') return runner.id === stage.id;
        return runner.kind === stage.kind;
      })
    );
  }

  easeTo(stages: readonly Stage[]): void {
    this.runners.forEach((runner, i) => {
      const stage = stages[i];
      if (runner.kind === 'cascade' && stage.kind === 'cascade') runner.processor.easeTo(stage.sections);
      else if (runner.kind === 'convolution' && stage.kind === 'convolution') runner.processor.easeTo(stage.kernel);
      else if (runner.kind === 'processor' && stage.kind === 'processor') runner.processor.easeTo(stage.plan);
    });
  }

  /** One stage as it is wanted from now on. */
  setStage(place: number, stage: Stage, immediately: boolean): void {
    const runner = this.runners[place];
    if (runner?.kind === 'cascade' && stage.kind === 'cascade') setTo(runner.processor, stage.sections, immediately);
    else if (runner?.kind === 'convolution' && stage.kind === 'convolution' && runner.key === stage.key) {
      if (!runner.processor.canEaseTo(stage.kernel)) return;
      if (immediately) runner.processor.jumpTo(stage.kernel);
      else runner.processor.switchTo(stage.kernel);
    } else if (runner?.kind === 'processor' && stage.kind === 'processor' && runner.id === stage.id)
      setTo(runner.processor, stage.plan, immediately);
  }

  /** Lets one stage get ready for what it will be. */
  prepareStage(place: number, stage: Stage): void {
    const runner = this.runners[place];
    if (runner?.kind === 'cascade' && stage.kind === 'cascade') runner.processor.prepare(stage.sections);
    else if (runner?.kind === 'convolution' && stage.kind === 'convolution' && runner.key === stage.key) {
      if (runner.processor.canEaseTo(stage.kernel)) runner.processor.prepare(stage.kernel);
    } else if (runner?.kind === 'processor' && stage.kind === 'processor' && runner.id === stage.id)
      runner.processor.prepare(stage.plan);
  }

  /** The sections of one stage between two states. */
  moveStage(place: number, between: Between): void {
    const runner = this.runners[place];
    if (runner?.kind === 'cascade') runner.processor.moveTo(between);
  }

  /** True where it makes two different sides of one. */
  get opens(): boolean {
    return this.opensAt < this.runners.length;
  }

  process(left: Float64Array, right: Float64Array | null, frames: number, keys: KeyBlocks = NO_KEYS, at = 0): void {
    const { runners } = this;
    let i = 0;
    if (right && this.input.isMono) {
      for (; i < this.opensAt; i++) runners[i].processor.process(left, null, frames, keys, at);
      for (let n = 0; n < frames; n++) right[n] = left[n];
    }
    for (; i < runners.length; i++) runners[i].processor.process(left, right, frames, keys, at);
  }

  /** All stages where they are cascades at rest; null else. */
  get cascades(): Cascade[] | null {
    const all = this.runners.map((runner) => (runner.kind === 'cascade' ? runner.processor.resting : null));
    const resting = all.filter((processor) => processor instanceof Cascade && !processor.isEasing) as Cascade[];
    return resting.length === all.length ? resting : null;
  }

  gainDbOf(id: string): number | undefined {
    for (let i = 0; i < this.runners.length; i++) {
      const runner = this.runners[i];
      if (runner.kind === 'processor' && runner.id === id) return runner.processor.gainDbOf(id);
    }
    return undefined;
  }

  reset(): void {
    for (const { processor } of this.runners) processor.reset();
  }

  get isSound(): boolean {
    for (let i = 0; i < this.runners.length; i++) if (!this.runners[i].processor.isSound) return false;
    return true;
  }

  /** One after the other: each begins when the one before it has caught up. */
  get warmUpFrames(): number {
    return this.runners.reduce((sum, { processor }) => sum + processor.warmUpFrames, 0);
  }

  release(): void {
    for (const { processor } of this.runners) processor.release();
  }
}
