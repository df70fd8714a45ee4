import type { Cascade } from './cascade';
import { ChainRunner } from './chain-runner';
import type { CompiledStrip } from './compile';
import type { Follower, Following } from './follow';
import type { TimelineSegment, TimelineState } from './timeline';
import type { CompiledChain } from './compile-chain';
import { DelayLine } from '../processors/delay-line';
import { EasedValue } from '../processors/eased-value';
import { threadKernel, type Levels } from './kernel/kernel';
import { MAX_BLOCK } from './kernel/layout';
import { NO_KEYS, type KeyBlocks, type KeyTaps } from './keys';
import type { StripWaits } from './latency';
import type { Overhearing } from './overhearing';
import { sumOf, type Sum, type Sums } from './sum';

/** A line of so many frames: the known one, where it is one. */
export const lineOf = (frames: number, known: DelayLine | null | undefined): DelayLine | null =>
  frames === 0 ? null : known?.frames === frames ? known : new DelayLine(frames);

/** The fader of a strip; shut where nothing of it is heard. */
const faderOf = ({ audible, sends }: Pick<CompiledStrip, 'audible' | 'sends'>, gain: number) =>
  audible === 1 || sends.some((send) => send.audible === 1) ? gain : 0;

/** The blocks that the processors of a chain listen to. */
export function keysOf(chain: CompiledChain, taps: KeyTaps): KeyBlocks {
  const keys = chain.stages.flatMap((stage) =>
    stage.kind === 'processor' && stage.key?.stripId ? [[stage.id, taps.of(stage.key.stripId)] as const] : [],
  );
  return keys.length === 0 ? NO_KEYS : new Map(keys);
}

const block = () => new Float64Array(MAX_BLOCK);
/** Where a thread works on one strip after the other. */
const gains = block();
const sideGains = block();
const faded = { left: block(), right: block() };
const sent = { left: block(), right: block() };

/** A strip at rest that goes to one place by its chain and two factors. */
export interface StraightWay {
  cascades: readonly Cascade[];
  leftFactor: number;
  rightFactor: number;
  to: Sum;
}

/** Runs a strip: its chain, fader, position, sends and output. */
export class StripRunner implements Following {
  readonly chain: ChainRunner;
  readonly levels: Levels = { peak: 0, power: 0 };
  /** What its processors listen to. */
  keys: KeyBlocks = NO_KEYS;
  /** What waits for others that are later. */
  inputLine: DelayLine | null = null;
  private readonly gain: EasedValue;
  /** 1 where its output is heard; its sends may be heard where it is not. */
  private readonly through: EasedValue;
  private readonly leftGain: EasedValue;
  private readonly rightGain: EasedValue;
  private readonly sendGains: EasedValue[] = [];
  private outputLine: DelayLine | null = null;
  private sendLines: (DelayLine | null)[] = [];

  /** @param measures false where nobody asks for its levels */
  constructor(
    public plan: CompiledStrip,
    private readonly rateHz: number,
    private readonly measures: boolean,
  ) {
    this.chain = new ChainRunner(rateHz);
    this.gain = new EasedValue(faderOf(plan, plan.gain), rateHz);
    this.through = new EasedValue(plan.audible, rateHz);
    this.leftGain = new EasedValue(plan.leftGain, rateHz);
    this.rightGain = new EasedValue(plan.rightGain, rateHz);
  }

  /** @param now what of it holds at this moment */
  update(plan: CompiledStrip, now: TimelineState, immediately: boolean): void {
    this.plan = plan;
    this.setMixer(now, null, 0, immediately);
  }

  /** Fader, position and sends, on the way from one state to another. */
  private setMixer(from: TimelineState, to: TimelineState | null, share: number, immediately: boolean): void {
    const between = (first: number, second: number | undefined) => (to ? first + share * (second! - first) : first);
    this.gain.set(faderOf(from, between(from.gain, to?.gain)), immediately);
    this.through.set(from.audible, immediately);
    this.leftGain.set(between(from.leftGain, to?.leftGain), immediately);
    this.rightGain.set(between(from.rightGain, to?.rightGain), immediately);
    for (let i = 0; i < from.sends.length; i++) {
      const send = from.sends[i];
      const gain = between(send.gain, to?.sends[i].gain) * send.audible;
      if (this.sendGains[i]) this.sendGains[i].set(gain, immediately);
      else this.sendGains[i] = new EasedValue(gain, this.rateHz);
    }
  }

  followMixer({ start, end }: TimelineSegment, share: number, immediately: boolean): void {
    this.setMixer(start, end, share, immediately);
  }

  prepareStage(stage: number, { start }: TimelineSegment): void {
    this.chain.prepare(stage, start.chain.stages[stage]);
  }

  followStage(
    stage: number,
    { start, end }: TimelineSegment,
    share: number,
    isNew: boolean,
    immediately: boolean,
  ): void {
    this.chain.follow(
      stage,
      start.chain.stages[stage],
      end ? end.chain.stages[stage] : null,
      share,
      isNew,
      immediately,
    );
  }

  /** Leads it through its passages. */
  follower: Follower | null = null;

  setWaits({ input, output, sends }: StripWaits): void {
    this.inputLine = lineOf(input, this.inputLine);
    this.outputLine = lineOf(output, this.outputLine);
    this.sendLines = sends.map((frames, i) => lineOf(frames, this.sendLines[i]));
  }

  reset(): void {
    this.chain.reset();
    this.levels.peak = this.levels.power = 0;
    for (const line of [this.inputLine, this.outputLine, ...this.sendLines]) line?.reset();
  }

  /** False where what it has put out, or holds, may be no number, or infinite. */
  get isSound(): boolean {
    return Number.isFinite(this.levels.peak + this.levels.power) && this.chain.isSound;
  }

  private get sidesRest(): boolean {
    return this.through.isSettled && this.leftGain.isSettled && this.rightGain.isSettled;
  }

  private get rests(): boolean {
    return this.gain.isSettled && this.sidesRest;
  }

  private get isStraight(): boolean {
    return this.plan.sends.length === 0 && !this.outputLine && this.rests;
  }

  /** How it goes into a sum, where it stays as it is from now on; null where that is not all there is to it. */
  straightWay(to: Sum): StraightWay | null {
    const { cascades } = this.chain;
    if (!this.isStraight || this.plan.timeline || this.plan.isKey || this.inputLine || !cascades || !to.isInKernel)
      return null;
    let leftFactor = this.gain.value * this.through.value * this.leftGain.value;
    let rightFactor = this.gain.value * this.through.value * this.rightGain.value;
    for (const cascade of cascades) {
      const [left, right] = cascade.fix();
      leftFactor *= left;
      rightFactor *= right;
    }
    return { cascades, leftFactor, rightFactor, to };
  }

  /** The chain, and what others listen to behind it. See `ChainRunner.process`. */
  runChain(left: Float64Array, right: Float64Array | null, frames: number, taps: KeyTaps, isMono: boolean): void {
    this.chain.process(left, right, frames, this.keys, isMono);
    if (this.plan.isKey) taps.write(this.plan.id, left, right, frames);
  }

  /** Fader, position, sends and output. `right` may be the same array as `left`, for mono. @param target what it runs into */
  mix(
    left: Float64Array,
    right: Float64Array,
    frames: number,
    sums: Sums,
    overhearing: Overhearing | null,
    target = sumOf(sums, this.plan.output),
  ): void {
    const { plan, levels, gain, through, leftGain, rightGain, outputLine } = this;
    const isWatched = overhearing !== null && overhearing.isWatched(plan.id);
    levels.peak = 0;
    levels.power = 0;
    if (!isWatched && !outputLine && this.sidesRest && this.sendsRest) {
      this.mixDirectly(left, right, frames, sums, target);
      return;
    }
    for (let i = 0; i < plan.sends.length; i++) if (plan.sends[i].beforeFader) this.send(i, left, right, frames, sums);
    gain.fill(gains, frames);
    this.fade(leftGain, left, faded.left, frames);
    this.fade(rightGain, right, faded.right, frames);
    levels.power /= frames;
    if (isWatched) overhearing.writeMonitor(faded.left, faded.right, frames);
    for (let i = 0; i < plan.sends.length; i++)
      if (!plan.sends[i].beforeFader) this.send(i, faded.left, faded.right, frames, sums);
    if (!through.isSettled || through.value !== 1) this.letThrough(frames);
    outputLine?.process(faded.left, faded.right, frames);
    target.add(faded.left, faded.right, frames);
  }

  /** True where its sends stay as they are, and nothing of them waits. */
  private get sendsRest(): boolean {
    for (let i = 0; i < this.plan.sends.length; i++)
      if (!this.sendGains[i].isSettled || this.sendLines[i]) return false;
    return true;
  }

  /** The short way of a strip where nothing moves but, perhaps, its fader. */
  private mixDirectly(left: Float64Array, right: Float64Array, frames: number, sums: Sums, target: Sum): void {
    const { plan, levels, through } = this;
    const moving = this.gain.isSettled ? null : threadKernel().gains;
    if (moving) this.gain.fill(moving, frames);
    const gain = moving ? 1 : this.gain.value;
    const [ofLeft, ofRight] = [gain * this.leftGain.value, gain * this.rightGain.value];
    const measured = this.measures ? levels : null;
    target.addScaled(left, right, through.value * ofLeft, through.value * ofRight, frames, measured, moving);
    levels.power /= frames;
    for (let i = 0; i < plan.sends.length; i++) {
      const share = this.sendGains[i].value;
      if (share === 0) continue;
      const sum = sumOf(sums, plan.sends[i].bus);
      if (plan.sends[i].beforeFader) sum.addScaled(left, right, share, share, frames, null);
      else sum.addScaled(left, right, share * ofLeft, share * ofRight, frames, null, moving);
    }
  }

  /** Shuts the output where the sends alone are heard. */
  private letThrough(frames: number): void {
    const { through, levels } = this;
    through.fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      faded.left[n] *= sideGains[n];
      faded.right[n] *= sideGains[n];
    }
    if (through.isSettled && through.value === 0) levels.peak = levels.power = 0;
  }

  /** One side through the fader, whose gains lie ready, and the position. */
  private fade(sideGain: EasedValue, samples: Float64Array, out: Float64Array, frames: number): void {
    let { peak, power } = this.levels;
    sideGain.fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      const value = samples[n] * gains[n] * sideGains[n];
      out[n] = value;
      power += value * value;
      const size = value < 0 ? -value : value;
      if (size > peak) peak = size;
    }
    this.levels.peak = peak;
    this.levels.power = power;
  }

  private send(index: number, left: Float64Array, right: Float64Array, frames: number, sums: Sums): void {
    this.sendGains[index].fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      sent.left[n] = left[n] * sideGains[n];
      sent.right[n] = right[n] * sideGains[n];
    }
    this.sendLines[index]?.process(sent.left, sent.right, frames);
    sumOf(sums, this.plan.sends[index].bus).add(sent.left, sent.right, frames);
  }
}
