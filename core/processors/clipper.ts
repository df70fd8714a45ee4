import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Clipper } from '../song';
import { clipped, clippedArea, clipperCurve, type ClipperCurve } from './clipper-curve';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { fromDb } from './levels';
import { FACTOR, Oversampling } from './oversampling';
import type { ProcessorRunner } from './runner';

const drives = new Float64Array(MAX_BLOCK);
const ceilings = new Float64Array(MAX_BLOCK);
const bends = new Float64Array(MAX_BLOCK);
const mixes = new Float64Array(MAX_BLOCK);
const dry = { left: new Float64Array(MAX_BLOCK), right: new Float64Array(MAX_BLOCK) };

/** One side: eight times as many samples, the curve between each two of them, and back. */
class Side {
  readonly oversampling = new Oversampling();
  private last = 0;
  private lastArea = 0;
  private readonly curve: ClipperCurve = { bendsAt: 0, ceiling: 0 };

  /** In place. */
  process(samples: Float64Array, frames: number): void {
    const { oversampling, curve } = this;
    let { last, lastArea } = this;
    for (let n = 0; n < frames; n++) {
      const dense = oversampling.up(samples[n] * drives[n]);
      const bendsAt = ceilings[n] * (1 - bends[n]);
      if (curve.ceiling !== ceilings[n] || curve.bendsAt !== bendsAt) {
        curve.ceiling = ceilings[n];
        curve.bendsAt = bendsAt;
        lastArea = clippedArea(last, curve);
      }
      for (let i = 0; i < FACTOR; i++) {
        const value = dense[i];
        const step = value - last;
        const area = clippedArea(value, curve);
        // Means of the curve between two samples: S. Bilbao et al., "Antiderivative Antialiasing for Memoryless Nonlinearities", IEEE Signal Processing Letters 24 (2017).
        dense[i] = step > 1e-6 || step < -1e-6 ? (area - lastArea) / step : clipped((value + last) / 2, curve);
        last = value;
        lastArea = area;
      }
      samples[n] = oversampling.down();
    }
    this.last = last;
    this.lastArea = lastArea;
  }

  reset(): void {
    this.oversampling.reset();
    this.last = this.lastArea = 0;
  }
}

/** Drives the sound into a curve that is level at the ceiling: without memory, oversampled. */
export class ClipperRunner implements ProcessorRunner<Clipper> {
  readonly latencyFrames = Oversampling.latencyFrames;
  readonly warmUpFrames = 4 * Oversampling.latencyFrames;
  readonly gainDb = 0;
  private readonly sides = [new Side(), new Side()];
  private readonly drive: EasedValue;
  private readonly ceiling: EasedValue;
  private readonly bend: EasedValue;
  private readonly mix: EasedValue;
  private readonly dryLine = new DelayLine(Oversampling.latencyFrames);
  private lastPeak = 0;

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
    this.drive.fill(drives, frames);
    this.ceiling.fill(ceilings, frames);
    this.bend.fill(bends, frames);
    this.mix.fill(mixes, frames);
    for (let n = 0; n < frames; n++) dry.left[n] = left[n];
    if (right) for (let n = 0; n < frames; n++) dry.right[n] = right[n];
    this.dryLine.process(dry.left, right && dry.right, frames);
    this.runSide(0, left, dry.left, frames);
    if (right) this.runSide(1, right, dry.right, frames);
  }

  private runSide(side: number, samples: Float64Array, before: Float64Array, frames: number): void {
    this.sides[side].process(samples, frames);
    for (let n = 0; n < frames; n++) samples[n] = before[n] + mixes[n] * (samples[n] - before[n]);
    this.lastPeak = samples[frames - 1];
  }

  reset(): void {
    for (const side of this.sides) side.reset();
    this.dryLine.reset();
    this.lastPeak = 0;
  }

  get isSound(): boolean {
    return Number.isFinite(this.lastPeak);
  }
}
