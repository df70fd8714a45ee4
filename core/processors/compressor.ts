import { MAX_BLOCK } from '../engine/kernel/layout';
import type { Compressor } from '../song';
import { EasedValue } from './eased-value';
import { fromDb, framesOf, keptPerFrame, toDb } from './levels';
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
    for (let n = 0; n < frames; n++) {
      const one = Math.abs(keyLeft[n]);
      const other = keyRight ? Math.abs(keyRight[n]) : 0;
      let size = one > other ? one : other;
      if (isRms) {
        meanSquare = size * size + keptMeanSquare * (meanSquare - size * size);
        // A sine reads as its peak.
        size = Math.sqrt(2 * meanSquare);
      }
      const wanted = reductionAt(toDb(size), thresholds[n], slopes[n], knees[n]);
      const kept = wanted > taken ? keptAttack : keptRelease;
      taken = wanted + kept * (taken - wanted);
      if (taken < 1e-9) taken = 0;
      const mix = mixes[n];
      const gain = 1 - mix + mix * fromDb(makeUps[n] - taken);
      left[n] *= gain;
      if (right) right[n] *= gain;
    }
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
