import { sharpened, spread } from './correlation';
import { ONSET_STEP_SECONDS } from './onsets';

/** How dearly a beat pays for coming early or late. Source: D. P. W. Ellis, "Beat Tracking by Dynamic Programming", J. New Music Res. 36(1), 2007. */
const TIGHTNESS = 100;
/** A beat comes after so many times the usual at least and at most. */
const RANGE = { from: 0.8, to: 1.25 };
/** Where an onset is felt beside where it begins: half of the frame that its strength is told from, less a step. */
const FELT_LATE_SECONDS = 0.0066;

/** The onsets of a sound in units of their own spread. */
export function beatStrengths(strengths: ArrayLike<number>): Float64Array {
  const values = spread(sharpened(strengths));
  const power = values.reduce((sum, value) => sum + value * value, 0) / Math.max(1, values.length);
  return power > 0 ? values.map((value) => value / Math.sqrt(power)) : values;
}

/**
 * Beats that follow how it is played: those on which most begins while they stay about as far apart as they should.
 * @param strengths see {@link beatStrengths}
 * @param bpm about which they keep
 * @returns their times, seconds
 */
export function trackedBeats(strengths: Float64Array, bpm: number): number[] {
  const usual = 60 / bpm / ONSET_STEP_SECONDS;
  const [nearest, farthest] = [Math.round(RANGE.from * usual), Math.round(RANGE.to * usual)];
  const costs = Float64Array.from(
    { length: farthest + 1 },
    (_, lag) => TIGHTNESS * Math.log(Math.max(1, lag) / usual) ** 2,
  );
  const { length } = strengths;
  const sums = new Float64Array(length);
  const before = new Int32Array(length).fill(-1);
  for (let n = 0; n < length; n++) {
    let best = -Infinity;
    for (let lag = nearest; lag <= farthest && lag <= n; lag++) {
      const sum = sums[n - lag] - costs[lag];
      if (sum > best) [best, before[n]] = [sum, n - lag];
    }
    // A chain may begin within the first beat.
    if (n < farthest && best < 0) [best, before[n]] = [0, -1];
    sums[n] = strengths[n] + best;
  }
  let last = length - 1;
  for (let n = Math.max(0, length - farthest); n < length; n++) if (sums[n] > sums[last]) last = n;
  const beats: number[] = [];
  for (let n = last; n >= 0; n = before[n]) beats.push(onsetSeconds(n));
  return beats.reverse();
}

/** When it began, what is felt at a step. */
export const onsetSeconds = (step: number) => Math.max(0, step * ONSET_STEP_SECONDS - FELT_LATE_SECONDS);
const stepOf = (seconds: number) => Math.round((seconds + FELT_LATE_SECONDS) / ONSET_STEP_SECONDS);

/** The beats of an even tempo that lie within a sound; one at least. */
export function evenBeats(bpm: number, firstSeconds: number, lengthSeconds: number): number[] {
  const beat = 60 / bpm;
  return Array.from(
    { length: Math.max(1, Math.floor((lengthSeconds - firstSeconds) / beat) + 1) },
    (_, i) => firstSeconds + i * beat,
  );
}

/** So near a beat counts what begins, steps. */
const NEAR = 3;

/** How much begins on some beats, on average. */
export function strengthOn(strengths: Float64Array, beats: readonly number[]): number {
  let sum = 0;
  for (const seconds of beats) {
    const at = stepOf(seconds);
    let most = 0;
    for (let n = Math.max(0, at - NEAR); n <= Math.min(strengths.length - 1, at + NEAR); n++)
      most = Math.max(most, strengths[n]);
    sum += most;
  }
  return sum / Math.max(1, beats.length);
}

/** Beats are led by tempos so that they are off by no more, seconds. */
const OFF_SECONDS = 0.03;
/** A tempo holds for so many beats at least. */
const FEWEST_BEATS = 4;

/**
 * The fewest tempos that lead through some beats (Douglas and Peucker, 1973).
 * @returns each with the number of the beat from which on it holds, quarter notes a minute
 */
export function temposThrough(beats: readonly number[]): { beat: number; bpm: number }[] {
  const between = (from: number, to: number): number[] => {
    let [worst, off] = [-1, OFF_SECONDS];
    const pace = (beats[to] - beats[from]) / (to - from);
    for (let i = from + FEWEST_BEATS; i <= to - FEWEST_BEATS; i++) {
      const apart = Math.abs(beats[from] + (i - from) * pace - beats[i]);
      if (apart > off) [worst, off] = [i, apart];
    }
    return worst < 0 ? [from] : [...between(from, worst), ...between(worst, to)];
  };
  const knots = [...between(0, beats.length - 1), beats.length - 1];
  return knots.slice(0, -1).map((beat, i) => ({
    beat,
    bpm: (60 * (knots[i + 1] - beat)) / (beats[knots[i + 1]] - beats[beat]),
  }));
}
