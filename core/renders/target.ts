import { writeNumber } from '../formats';
import type { LoudnessTarget } from './order';

/** How loud a mix is, before it is brought to a target. */
export interface MeasuredMix {
  /** Null for silence. */
  integratedLufs: number | null;
  truePeakDbtp: number;
}

/** So close to the target is close enough, LU. */
export const NEAR_LU = 0.05;

/** A hair below the ceiling, for what rounding to integers, and another meter's filter, add. */
const MARGIN_DB = 0.05;

/** The ceiling that is worked to, dBTP. */
export const workingCeiling = ({ ceilingDbtp }: Pick<LoudnessTarget, 'ceilingDbtp'>) => ceilingDbtp - MARGIN_DB;

/** The gain that brings a mix to its target; without a limiter no more than its peaks leave room for. 0 for silence. */
export function targetGainDb(mix: MeasuredMix, target: LoudnessTarget): number {
  if (mix.integratedLufs === null) return 0;
  const wanted = target.lufs - mix.integratedLufs;
  return target.by === 'limiter' ? wanted : Math.min(wanted, workingCeiling(target) - mix.truePeakDbtp);
}

/** What became of a target, in a sentence; nothing where it was reached without anything in its way. */
export function targetRemark(reached: MeasuredMix, target: LoudnessTarget, mostLimitedDb: number): string | undefined {
  const lufs = (value: number) => `${writeNumber(value)} LUFS`;
  if (reached.integratedLufs === null) return 'It is silent: no loudness to reach.';
  const missing = target.lufs - reached.integratedLufs;
  if (missing > 2 * NEAR_LU)
    return target.by === 'gain'
      ? `Its peaks hold it back: ${lufs(reached.integratedLufs)} in place of ${lufs(target.lufs)} is what the ceiling of ${writeNumber(target.ceilingDbtp)} dBTP leaves room for. A limiter would make room.`
      : `The limiter holds it back: ${lufs(reached.integratedLufs)} in place of ${lufs(target.lufs)} is as loud as it becomes below ${writeNumber(target.ceilingDbtp)} dBTP.`;
  if (mostLimitedDb > 0.05) return `The limiter took ${writeNumber(mostLimitedDb)} dB from the highest peak.`;
  return undefined;
}
