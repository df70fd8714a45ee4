import type { BarBeats } from './bar-score';
import { ONSET_STEP_SECONDS } from './onsets';
import { HARMONY_STEP_SECONDS, type Rhythm } from './rhythm';

/** What speaks for the first beat of a bar: lows that begin on it, another chord than on the beat before, and than on the two before; set once by the songs of `npm run bench -- grid`. */
const WEIGHTS = [0.45, 1.7, 1];
/** What begins so long before a beat and after it is on it, seconds. */
const ON = { before: 0.03, after: 0.05 };
const LOUDEST = 0.05;

/** How the harmony of a stretch differs from that of another: 0 the same, 1 nothing in common. */
function harmonyChange(harmony: Rhythm['harmony'], [from, middle, to]: readonly [number, number, number]): number {
  const mean = (start: number, end: number) => {
    const sum = new Float64Array(12);
    const first = Math.max(0, Math.round(start / HARMONY_STEP_SECONDS));
    const last = Math.min(harmony.length, Math.max(first + 1, Math.round(end / HARMONY_STEP_SECONDS)));
    for (let i = first; i < last; i++)
      for (let semitone = 0; semitone < 12; semitone++) sum[semitone] += harmony[i][semitone];
    return sum;
  };
  const [a, b] = [mean(from, middle - LOUDEST), mean(middle + LOUDEST, to)];
  let [product, power, otherPower] = [0, 0, 0];
  for (let i = 0; i < 12; i++) {
    product += a[i] * b[i];
    power += a[i] ** 2;
    otherPower += b[i] ** 2;
  }
  return power > 0 && otherPower > 0 ? 1 - product / Math.sqrt(power * otherPower) : 0;
}

/** Values less their mean, in units of their spread. */
function standardised(values: readonly number[]): number[] {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const deviation = Math.sqrt(values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length);
  return values.map((value) => (deviation > 1e-9 ? (value - mean) / deviation : 0));
}

/**
 * Which beat is the first of a bar.
 * @param beats their times, seconds
 * @returns its number among the first of them, and from 0 to 1 how likely it is that
 */
export function findDownbeat(
  { lows, harmony }: Rhythm,
  beats: readonly number[],
  barBeats: BarBeats,
): { first: number; share: number } {
  if (beats.length < 2 * barBeats) return { first: 0, share: 1 / barBeats };
  const pace = (beats[beats.length - 1] - beats[0]) / (beats.length - 1);
  const low = beats.map((seconds) => {
    let sum = 0;
    const to = Math.min(lows.length, Math.round((seconds + ON.after) / ONSET_STEP_SECONDS));
    for (let n = Math.max(0, Math.round((seconds - ON.before) / ONSET_STEP_SECONDS)); n < to; n++) sum += lows[n];
    return sum;
  });
  const changes = [1, 2].map((span) =>
    beats.map((seconds) => harmonyChange(harmony, [seconds - span * pace, seconds, seconds + span * pace])),
  );
  const features = [low, ...changes].map(standardised);
  const likely = Array.from({ length: barBeats }, (_, phase) => {
    const own = (values: readonly number[]) => values.filter((_value, i) => i % barBeats === phase);
    const score = features.reduce((sum, values, i) => {
      const some = own(values);
      return sum + (WEIGHTS[i] * some.reduce((total, value) => total + value, 0)) / some.length;
    }, 0);
    return Math.exp(score);
  });
  const first = likely.indexOf(Math.max(...likely));
  return { first, share: likely[first] / likely.reduce((sum, value) => sum + value, 0) };
}
