import { MAX_BLOCK } from '../engine/kernel/layout';
import type { StateVariable } from '../engine/state-variable';
import { GIVES_ALL_DB, type BandChannel, type GivesWay } from '../song';
import { EasedValue } from './eased-value';
import { fromDb, framesOf, keptPerFrame, sizesOf, SlidingMaximum, toDb } from './levels';
import type { ProcessorRunner } from './runner';

/** Peaks are looked at over so long. */
const WINDOW_MS = 1;

/** A band that gives way, as it runs: its section at equal steps of gain from its rest to its farthest place. */
export interface GivingBand extends Omit<GivesWay, 'key' | 'amountDb'> {
  kind: 'giving-band';
  id: string;
  enabled: boolean;
  channel: BandChannel;
  amountDb: number;
  table: readonly StateVariable[];
}

/** How far a band gives way at rest under a steady key, 0 to 1: linear in dB above the threshold. */
export const givingShare = (keyDb: number, thresholdDb: number) =>
  Math.min(1, Math.max(0, (keyDb - thresholdDb) / GIVES_ALL_DB));

/** Where in a table a share lies, as one set of coefficients. */
function mixInto(out: StateVariable, table: readonly StateVariable[], share: number): void {
  const at = share * (table.length - 1);
  const i = Math.min(table.length - 2, Math.floor(at));
  const f = at - i;
  const a = table[i];
  const b = table[i + 1];
  out.g = a.g + f * (b.g - a.g);
  out.k = a.k + f * (b.k - a.k);
  out.m0 = a.m0 + f * (b.m0 - a.m0);
  out.m1 = a.m1 + f * (b.m1 - a.m1);
  out.m2 = a.m2 + f * (b.m2 - a.m2);
}
const none = (): StateVariable => ({ g: 1, k: 1, m0: 1, m1: 0, m2: 0 });

const shares = new Float64Array(MAX_BLOCK);
const towards = new Float64Array(MAX_BLOCK);

/** Moves one section between two gains with the level of its key. What it is set to is eased in over 6 ms, as all that is dragged. */
export class GivingBandRunner implements ProcessorRunner<GivingBand> {
  readonly latencyFrames = 0;
  readonly warmUpFrames: number;
  private readonly window: SlidingMaximum;
  private share = 0;
  private held = 0;
  private threshold = 0;
  private thresholdDb = 0;
  private keptAttack = 0;
  private keptRelease = 0;
  private holdFrames = 0;
  private amountDb = 0;
  private table: readonly StateVariable[];
  /** What the table was before the last change, and how far it has gone over to the new one. */
  private old: readonly StateVariable[];
  private arrived: EasedValue;
  private readonly section = none();
  private readonly before = none();
  private readonly memory = new Float64Array(4);

  constructor(
    settings: GivingBand,
    private readonly rateHz: number,
  ) {
    this.warmUpFrames = framesOf(Math.min(300, settings.holdMs + settings.releaseMs), rateHz);
    this.window = new SlidingMaximum(Math.max(1, framesOf(WINDOW_MS, rateHz)));
    this.table = this.old = settings.table;
    this.channel = settings.channel;
    this.arrived = new EasedValue(1, rateHz);
    this.update(settings, true);
  }
  private readonly channel: BandChannel;

  get gainDb(): number {
    return this.share * this.amountDb;
  }

  canBecome({ channel, table }: GivingBand): boolean {
    return channel === this.channel && table.length === this.table.length;
  }

  update(settings: GivingBand, immediately: boolean): void {
    this.thresholdDb = settings.thresholdDb;
    this.threshold = fromDb(settings.thresholdDb);
    this.keptAttack = keptPerFrame(settings.attackMs, this.rateHz);
    this.keptRelease = keptPerFrame(settings.releaseMs, this.rateHz);
    this.holdFrames = Math.max(0, framesOf(settings.holdMs, this.rateHz) - this.window.frames);
    this.amountDb = settings.amountDb;
    if (settings.table === this.table) return;
    if (immediately) {
      this.table = this.old = settings.table;
      this.arrived = new EasedValue(1, this.rateHz);
      return;
    }
    const share = this.arrived.value;
    this.old = this.table.map((entry, i) => blend(this.old[i], entry, share));
    this.table = settings.table;
    this.arrived = new EasedValue(0, this.rateHz);
    this.arrived.set(1);
  }

  process(
    left: Float64Array,
    right: Float64Array | null,
    keyLeft: Float64Array,
    keyRight: Float64Array | null,
    frames: number,
  ): void {
    this.findShares(keyLeft, keyRight, frames);
    this.arrived.fill(towards, frames);
    if (this.channel === 'mid' || this.channel === 'side') this.runMidSide(left, right!, frames);
    else if (this.channel === 'right') this.runSides(right, null, frames);
    else this.runSides(left, this.channel === 'left' ? null : right, frames);
  }

  /** How far it has given way in each frame, in {@link shares}. */
  private findShares(keyLeft: Float64Array, keyRight: Float64Array | null, frames: number): void {
    const { threshold, thresholdDb, keptAttack, keptRelease, holdFrames } = this;
    let { share, held } = this;
    sizesOf(keyLeft, keyRight, shares, frames);
    this.window.run(shares, frames);
    for (let n = 0; n < frames; n++) {
      const peak = shares[n];
      const wanted = peak <= threshold ? 0 : givingShare(toDb(peak), thresholdDb);
      if (wanted >= share) {
        held = holdFrames;
        share = wanted + keptAttack * (share - wanted);
        if (wanted - share < 1e-9) share = wanted;
      } else if (held > 0) held--;
      else {
        share = wanted + keptRelease * (share - wanted);
        if (share - wanted < 1e-9) share = wanted;
      }
      shares[n] = share;
    }
    this.share = share;
    this.held = held;
  }

  /** The coefficients of a frame, in {@link section}. */
  private place(n: number): void {
    mixInto(this.section, this.table, shares[n]);
    const share = towards[n];
    if (share === 1) return;
    mixInto(this.before, this.old, shares[n]);
    const { section, before } = this;
    section.g = before.g + share * (section.g - before.g);
    section.k = before.k + share * (section.k - before.k);
    section.m0 = before.m0 + share * (section.m0 - before.m0);
    section.m1 = before.m1 + share * (section.m1 - before.m1);
    section.m2 = before.m2 + share * (section.m2 - before.m2);
  }

  private run(side: 0 | 1, input: number): number {
    const { memory, section } = this;
    const { g, k, m0, m1, m2 } = section;
    const band = (memory[2 * side] + g * (input - memory[2 * side + 1])) / (1 + g * (g + k));
    const low = memory[2 * side + 1] + g * band;
    memory[2 * side] = 2 * band - memory[2 * side];
    memory[2 * side + 1] = 2 * low - memory[2 * side + 1];
    return m0 * input + m1 * band + m2 * low;
  }

  private runSides(first: Float64Array | null, second: Float64Array | null, frames: number): void {
    for (let n = 0; n < frames; n++) {
      this.place(n);
      if (first) first[n] = this.run(0, first[n]);
      if (second) second[n] = this.run(1, second[n]);
    }
  }

  private runMidSide(left: Float64Array, right: Float64Array, frames: number): void {
    const isMid = this.channel === 'mid';
    for (let n = 0; n < frames; n++) {
      this.place(n);
      let mid = (left[n] + right[n]) / 2;
      let side = (left[n] - right[n]) / 2;
      if (isMid) mid = this.run(0, mid);
      else side = this.run(0, side);
      left[n] = mid + side;
      right[n] = mid - side;
    }
  }

  reset(): void {
    this.window.reset();
    this.share = this.held = 0;
    this.memory.fill(0);
  }

  get isSound(): boolean {
    return this.memory.every(Number.isFinite) && Number.isFinite(this.share);
  }
}

function blend(first: StateVariable, second: StateVariable, share: number): StateVariable {
  const mixed = (field: keyof StateVariable) => first[field] + share * (second[field] - first[field]);
  return { g: mixed('g'), k: mixed('k'), m0: mixed('m0'), m1: mixed('m1'), m2: mixed('m2') };
}
