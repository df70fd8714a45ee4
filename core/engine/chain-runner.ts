import { Cascade, type Between, type KeyedSection } from './cascade';
import { ChainStages, fadingCascade, type ChainInput, type Stage } from './chain-stages';
import type { CompiledChain, CompiledStage } from './compile-chain';
import type { ConvolutionKernel } from './convolution-kernel';
import { latencyFramesOf } from '../processors';
import { DelayLine } from '../processors/delay-line';
import { EasedValue } from '../processors/eased-value';
import { Fading } from './fading';
import { MAX_BLOCK } from './kernel/layout';
import { NO_KEYS, type KeyBlocks } from './keys';
import type { Processor } from './processor';

/** Kernels by their ids. */
export type Kernels = ReadonlyMap<string, ConvolutionKernel>;
const NO_KERNELS: Kernels = new Map();

function latencyOfStage(stage: Stage, rateHz: number): number {
  if (stage.kind === 'convolution') return stage.kernel.latencyFrames;
  return stage.kind === 'processor' ? latencyFramesOf(stage.plan.settings, rateHz) : 0;
}

const makesSides = (stages: Processor<readonly Stage[]>) => (stages as ChainStages).opens;

const latencyOfStages = (stages: readonly Stage[], rateHz: number) =>
  stages.reduce((sum, stage) => sum + latencyOfStage(stage, rateHz), 0);

/** What runs of a stage: of a convolution, the kernel that is wanted, or the last one while that is on its way; null where there is none yet. */
function stageOf(stage: CompiledStage, kernels: Kernels, running: readonly Stage[], keyWaits: KeyWaits): Stage | null {
  if (stage.kind === 'cascade') return stage;
  if (stage.kind === 'processor') {
    const { id, settings, key, hearsKey } = stage;
    return { kind: stage.kind, id, plan: { settings, key, hearsKey, keyWait: keyWaits[id] ?? 0 } };
  }
  const known = running.find((other) => other.kind === 'convolution' && other.key === stage.key);
  const kernel = kernels.get(stage.kernelId) ?? (known?.kind === 'convolution' ? known.kernel : undefined);
  return kernel ? { kind: stage.kind, key: stage.key, kernel } : null;
}

/** What runs of a chain. */
const stagesOf = (
  chain: CompiledChain,
  kernels: Kernels,
  running: readonly Stage[],
  keyWaits: KeyWaits = NO_WAITS,
): Stage[] => chain.stages.flatMap((stage) => stageOf(stage, kernels, running, keyWaits) ?? []);

/** How long the keys of a strip's processors wait, frames, by the processors' ids. */
export type KeyWaits = Readonly<Record<string, number>>;
export const NO_WAITS: KeyWaits = {};

/** When things are heard in a chain, frames after what goes in. */
export interface ChainLatency {
  whole: number;
  /** For each processor that listens to another strip, how late the sound is where it stands. */
  listeners: readonly { id: string; stripId: string; before: number }[];
  /** How late the sound is behind each stage of the chain as it was compiled. */
  stages: readonly number[];
}

/** How late a chain will be. @param running what runs of it already */
export function latencyOf(chain: CompiledChain, kernels: Kernels, rateHz: number, running?: ChainRunner): ChainLatency {
  const listeners: { id: string; stripId: string; before: number }[] = [];
  const stages: number[] = [];
  let whole = 0;
  for (const compiled of chain.stages) {
    const stage = stageOf(compiled, kernels, running?.stages ?? [], NO_WAITS);
    const stripId = stage?.kind === 'processor' ? stage.plan.key?.stripId : null;
    if (stage?.kind === 'processor' && stripId) listeners.push({ id: stage.id, stripId, before: whole });
    if (stage) whole += latencyOfStage(stage, rateHz);
    stages.push(whole);
  }
  return { whole, listeners, stages };
}

/**
 * The processors of a strip. What goes in is kept beside what comes out, as late as that: a bypass goes over from the one to the other
 * while the chain runs on, so that it costs nothing and the way back is as smooth. What only serves listening comes last, bypassed or not.
 */
export class ChainRunner {
  private readonly chain: Fading<readonly Stage[]>;
  private readonly monitoring: Fading<readonly KeyedSection[]>;
  private readonly input: ChainInput = { isMono: false };
  /** 1 where the chain is heard, 0 where it is bypassed. */
  private readonly wet: EasedValue;
  private wanted: CompiledChain | null = null;
  private kernels: Kernels = NO_KERNELS;
  private keyWaits: KeyWaits = NO_WAITS;
  /** What runs, or comes. */
  stages: readonly Stage[] = [];
  private dryLine: DelayLine | null = null;
  private readonly shares = new Float64Array(MAX_BLOCK);
  private readonly dryLeft = new Float64Array(MAX_BLOCK);
  private readonly dryRight = new Float64Array(MAX_BLOCK);

  constructor(private readonly rateHz: number) {
    this.chain = new Fading<readonly Stage[]>([], (stages) => new ChainStages(stages, rateHz, this.input), rateHz);
    this.monitoring = fadingCascade([], rateHz);
    this.wet = new EasedValue(1, rateHz);
  }

  update(chain: CompiledChain, kernels: Kernels, immediately: boolean, keyWaits: KeyWaits = NO_WAITS): void {
    this.kernels = kernels;
    this.keyWaits = keyWaits;
    if (chain === this.wanted && !immediately && chain.stages.every(({ kind }) => kind === 'cascade')) return;
    this.wanted = chain;
    this.stages = stagesOf(chain, kernels, this.stages, keyWaits);
    this.wet.set(chain.bypassed ? 0 : 1, immediately);
    const late = latencyOfStages(this.stages, this.rateHz);
    if (late !== (this.dryLine?.frames ?? 0)) this.dryLine = late === 0 ? null : new DelayLine(late);
    if (immediately) {
      this.chain.jumpTo(this.stages);
      this.monitoring.jumpTo(chain.monitoring);
    } else {
      this.chain.easeTo(this.stages);
      this.monitoring.easeTo(chain.monitoring);
    }
  }

  /**
   * One stage as a timeline wants it, of a chain that has run with all its stages since {@link update}.
   * @param next what it moves to; null where it stays
   * @param share how far it is on its way
   * @param isNew false where only the share is another
   */
  follow(
    place: number,
    stage: CompiledStage,
    next: CompiledStage | null,
    share: number,
    isNew: boolean,
    immediately: boolean,
  ): void {
    if (isNew) {
      const wanted = stageOf(stage, this.kernels, this.stages, this.keyWaits);
      if (wanted && this.wanted?.stages.length === this.stages.length) {
        this.stages = this.stages.with(place, wanted);
        this.chain.each((chain) => (chain as ChainStages).setStage(place, wanted, immediately));
      }
    }
    if (stage.kind !== 'cascade' || next?.kind !== 'cascade') return;
    this.between.from = stage.sections;
    this.between.to = next.sections;
    this.between.share = share;
    this.between.place = place;
    this.between.immediately = immediately;
    this.chain.each(this.moveStage);
  }

  /** Lets a stage get ready for what it will be, so that it becomes it at once when it is told to. */
  prepare(place: number, stage: CompiledStage): void {
    const wanted = stageOf(stage, this.kernels, this.stages, this.keyWaits);
    if (wanted && this.wanted?.stages.length === this.stages.length)
      this.chain.each((chain) => (chain as ChainStages).prepareStage(place, wanted));
  }

  /** One closure for ever: nothing is allocated while something moves. */
  private readonly between: Between & { place: number } = { from: [], to: [], share: 0, place: 0, immediately: false };
  private readonly moveStage = (chain: Processor<readonly Stage[]>) =>
    (chain as ChainStages).moveStage(this.between.place, this.between);

  /** True while two different sides come out of it where one goes in. */
  get opens(): boolean {
    return this.chain.some(makesSides);
  }

  /**
   * @param right null where one side goes in and comes out
   * @param frames 1 to {@link MAX_BLOCK}
   * @param isMono true where `left` alone goes in; it may come out as two sides
   */
  process(
    left: Float64Array,
    right: Float64Array | null,
    frames: number,
    keys: KeyBlocks = NO_KEYS,
    isMono = right === null,
  ): void {
    const { wet, dryLine, dryLeft, dryRight } = this;
    this.input.isMono = isMono;
    if (right && isMono) for (let n = 0; n < frames; n++) right[n] = left[n];
    const isWhole = wet.isSettled && wet.value === 1;
    if (!isWhole || dryLine) {
      for (let n = 0; n < frames; n++) dryLeft[n] = left[n];
      if (right) for (let n = 0; n < frames; n++) dryRight[n] = right[n];
      dryLine?.process(dryLeft, right && dryRight, frames);
    }
    this.chain.process(left, right, frames, keys);
    if (!isWhole) {
      wet.fill(this.shares, frames);
      this.blend(dryLeft, left, frames);
      if (right) this.blend(dryRight, right, frames);
    }
    this.monitoring.process(left, right, frames);
  }

  private blend(dry: Float64Array, samples: Float64Array, frames: number): void {
    const { shares } = this;
    for (let n = 0; n < frames; n++) samples[n] = dry[n] + shares[n] * (samples[n] - dry[n]);
  }

  /** All that runs where that is nothing but cascades at rest; null else. */
  get cascades(): readonly Cascade[] | null {
    const isPlain = this.wet.isSettled && this.wet.value === 1 && !this.dryLine;
    const stages = this.chain.resting;
    const listening = this.monitoring.resting;
    if (!isPlain || !(stages instanceof ChainStages) || !(listening instanceof Cascade)) return null;
    const own = stages.cascades;
    return own && !listening.isEasing ? [...own, listening].filter(({ length }) => length > 0) : null;
  }

  /** What a processor, or a band that gives way, takes away or adds at this moment, dB; 0 for what is not there. */
  gainDbOf(id: string): number {
    return this.chain.gainDbOf(id) ?? 0;
  }

  /** False where the memory of the filters may hold what is no number, or infinite. */
  get isSound(): boolean {
    return this.dryLine === null && this.chain.isSound && this.monitoring.isSound;
  }

  reset(): void {
    this.chain.reset();
    this.monitoring.reset();
    this.dryLine?.reset();
  }

  /** Gives back what it holds: it must not be used again. */
  release(): void {
    this.chain.release();
    this.monitoring.release();
  }
}
