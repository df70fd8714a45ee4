import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Compressor } from '../song';
import { EasedValue } from './eased-value';
import { gainsFromDb } from './hold-envelope';
import { fromDb, framesOf, keptPerFrame, sizesOf, toDb } from './levels';
import type { ProcessorRunner } from './runner';

/** The RMS detector's window is exponential. */
const RMS_MS = 10;

/** 1 − 1/ratio. */
const slopeOf = ({ ratio, limits }: Pick<Compressor, 'ratio' | 'limits'>) => (limits ? 1 : 1 - 1 / ratio);

/**
 * What is taken away of a level, dB ≥ 0: the soft knee of D. Giannoulis, M. Massberg and J. D. Reiss, "Digital Dynamic Range Compressor
 * Design", J. Audio Eng. Soc. 60 (2012), equation 4.
 * @param slope 1 − 1/ratio
 */
function reductionAt(levelDb: number, thresholdDb: number, slope: number, kneeDb: number): number {
  const over = levelDb - thresholdDb;
  if (2 * over <= -kneeDb) return 0;
  if (2 * over < kneeDb) return (slope * (over + kneeDb / 2) ** 2) / (2 * kneeDb);
  return slope * over;
}

/** The level that comes out against the level that goes in, both dB, make-up included: what a compressor is at rest. */
export function compressorCurveDb(levelDb: number, settings: Compressor): number {
  const taken = reductionAt(levelDb, settings.thresholdDb, slopeOf(settings), settings.kneeDb);
  const wet = fromDb(settings.makeUpDb - taken);
  const mix = settings.mixPercent / 100;
  return levelDb + toDb(1 - mix + mix * wet);
}

const sizes = new Float64Array(MAX_BLOCK);
const thresholds = new Float64Array(MAX_BLOCK);
const slopes = new Float64Array(MAX_BLOCK);
const knees = new Float64Array(MAX_BLOCK);
const makeUps = new Float64Array(MAX_BLOCK);
const mixes = new Float64Array(MAX_BLOCK);

/**
 * A feed-forward compressor: level of the key in dB, the soft-knee curve, then the smooth branching detector on what is to be taken away
 * (Giannoulis, Massberg and Reiss 2012, equation 16). The louder side moves both.
 */
export class CompressorRunner implements ProcessorRunner<Compressor> {
  readonly latencyFrames = 0;
  readonly warmUpFrames: number;
  gainDb = 0;
  private readonly threshold: EasedValue;
  private readonly slope: EasedValue;
  private readonly knee: EasedValue;
  private readonly makeUp: EasedValue;
  private readonly mix: EasedValue;
  private readonly keptMeanSquare: number;
  private keptAttack = 0;
  private keptRelease = 0;
  private isRms = false;
  /** What is taken away now, dB ≥ 0, and the mean square that the RMS detector has. */
  private taken = 0;
  private meanSquare = 0;

  constructor(
    settings: Compressor,
    private readonly rateHz: number,
  ) {
    this.warmUpFrames = framesOf(Math.min(400, 2 * settings.releaseMs), rateHz);
    this.keptMeanSquare = keptPerFrame(RMS_MS, rateHz);
    const eased = (value: number) => new EasedValue(value, rateHz);
    this.threshold = eased(settings.thresholdDb);
    this.slope = eased(slopeOf(settings));
    this.knee = eased(settings.kneeDb);
    this.makeUp = eased(settings.makeUpDb);
    this.mix = eased(settings.mixPercent / 100);
    this.isRms = settings.detector === 'rms';
    this.update(settings, true);
  }

  canBecome({ detector }: Compressor): boolean {
    return (detector === 'rms') === this.isRms;
  }

  update(settings: Compressor, immediately: boolean): void {
    this.threshold.set(settings.thresholdDb, immediately);
    this.slope.set(slopeOf(settings), immediately);
    this.knee.set(settings.kneeDb, immediately);
    this.makeUp.set(settings.makeUpDb, immediately);
    this.mix.set(settings.mixPercent / 100, immediately);
    this.keptAttack = keptPerFrame(settings.attackMs, this.rateHz);
    this.keptRelease = keptPerFrame(settings.releaseMs, this.rateHz);
  }

  process(
    left: Float64Array,
    right: Float64Array | null,
    keyLeft: Float64Array,
    keyRight: Float64Array | null,
    frames: number,
  ): void {
    this.threshold.fill(thresholds, frames);
    this.slope.fill(slopes, frames);
    this.knee.fill(knees, frames);
    this.makeUp.fill(makeUps, frames);
    this.mix.fill(mixes, frames);
    const { isRms, keptAttack, keptRelease, keptMeanSquare } = this;
    let { taken, meanSquare } = this;
    const lowest = this.threshold.isSettled && this.knee.isSettled ? thresholds[0] - knees[0] / 2 : -Infinity;
    const floor = fromDb(lowest);
    sizesOf(keyLeft, keyRight, sizes, frames);
    if (isRms)
      for (let n = 0; n < frames; n++) {
        const square = sizes[n] * sizes[n];
        meanSquare = square + keptMeanSquare * (meanSquare - square);
        // A sine reads as its peak.
        sizes[n] = Math.sqrt(2 * meanSquare);
      }
    for (let n = 0; n < frames; n++) {
      // The level of what lies below all knees need not be known.
      const wanted = sizes[n] < floor ? 0 : reductionAt(toDb(sizes[n]), thresholds[n], slopes[n], knees[n]);
      taken = wanted + (wanted > taken ? keptAttack : keptRelease) * (taken - wanted);
      if (taken < 1e-9) taken = 0;
      makeUps[n] -= taken;
    }
    gainsFromDb(makeUps, frames);
    for (let n = 0; n < frames; n++) makeUps[n] = 1 + mixes[n] * (makeUps[n] - 1);
    for (let n = 0; n < frames; n++) left[n] *= makeUps[n];
    if (right) for (let n = 0; n < frames; n++) right[n] *= makeUps[n];
    this.taken = taken;
    this.meanSquare = meanSquare;
    this.gainDb = -taken;
  }

  reset(): void {
    this.taken = 0;
    this.meanSquare = 0;
  }

  get isSound(): boolean {
    return Number.isFinite(this.taken + this.meanSquare);
  }
}
