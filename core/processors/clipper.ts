import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Clipper } from '../song';
import { clipperCurve } from './clipper-curve';
import type { ClipperBlock } from './clipper-loop';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { fromDb } from './levels';
import { clipperLoop } from './kernel/kernel';
import { Oversampling } from './oversampling';
import type { ProcessorRunner } from './runner';

const block: ClipperBlock = {
  drives: new Float64Array(MAX_BLOCK),
  ceilings: new Float64Array(MAX_BLOCK),
  bends: new Float64Array(MAX_BLOCK),
};
const mixes = new Float64Array(MAX_BLOCK);
const dry = { left: new Float64Array(MAX_BLOCK), right: new Float64Array(MAX_BLOCK) };

/** Drives the sound into a curve that is level at the ceiling: without memory, oversampled. */
export class ClipperRunner implements ProcessorRunner<Clipper> {
  readonly latencyFrames = Oversampling.latencyFrames;
  readonly warmUpFrames = 4 * Oversampling.latencyFrames;
  readonly gainDb = 0;
  private readonly loop = clipperLoop();
  private readonly drive: EasedValue;
  private readonly ceiling: EasedValue;
  private readonly bend: EasedValue;
  private readonly mix: EasedValue;
  private readonly dryLine = new DelayLine(Oversampling.latencyFrames);
  private lastOut = 0;

  constructor(settings: Clipper, rateHz: number) {
    const eased = (value: number) => new EasedValue(value, rateHz);
    this.drive = eased(fromDb(settings.driveDb));
    this.ceiling = eased(clipperCurve(settings.ceilingDb, 0).ceiling);
    this.bend = eased(settings.bend);
    this.mix = eased(settings.mixPercent / 100);
  }

  canBecome(): boolean {
    return true;
  }

  update({ driveDb, ceilingDb, bend, mixPercent }: Clipper, immediately: boolean): void {
    this.drive.set(fromDb(driveDb), immediately);
    this.ceiling.set(fromDb(ceilingDb), immediately);
    this.bend.set(bend, immediately);
    this.mix.set(mixPercent / 100, immediately);
  }

  process(left: Float64Array, right: Float64Array | null, _l: Float64Array, _r: unknown, frames: number): void {
    this.drive.fill(block.drives, frames);
    this.ceiling.fill(block.ceilings, frames);
    this.bend.fill(block.bends, frames);
    this.mix.fill(mixes, frames);
    for (let n = 0; n < frames; n++) dry.left[n] = left[n];
    if (right) for (let n = 0; n < frames; n++) dry.right[n] = right[n];
    this.dryLine.process(dry.left, right && dry.right, frames);
    this.loop.process(left, right, block, frames);
    this.mixIn(left, dry.left, frames);
    if (right) this.mixIn(right, dry.right, frames);
    this.lastOut = left[frames - 1] + (right ? right[frames - 1] : 0);
  }

  private mixIn(samples: Float64Array, before: Float64Array, frames: number): void {
    for (let n = 0; n < frames; n++) samples[n] = before[n] + mixes[n] * (samples[n] - before[n]);
  }

  reset(): void {
    this.loop.reset();
    this.dryLine.reset();
    this.lastOut = 0;
  }

  release(): void {
    this.loop.release();
  }

  get isSound(): boolean {
    return Number.isFinite(this.lastOut);
  }
}
