import weights from './bar-weights.json';
import { autocorrelation, sharpened, valueBetween } from './correlation';
import { ONSET_STEP_SECONDS } from './onsets';
import type { Rhythm } from './rhythm';

/** Bars that are told apart: of three beats, and of four (two are heard as half of four). */
export const BAR_BEATS = [3, 4] as const;
export type BarBeats = (typeof BAR_BEATS)[number];

/** Tempos that are looked at, quarter notes a minute. */
const TEMPOS = Array.from({ length: 359 }, (_, i) => 50 * Math.exp(0.004 * i));
const MIDDLE_BPM = 115;
/** The longest time that is asked about: one and a half of the slowest bars of four. */
const LONGEST_SECONDS = (1.5 * 4 * 60) / TEMPOS[0] + 0.1;

/**
 * Shares of a bar at which onsets are held against what was a while before: what repeats there where the bar has so many beats, and what repeats
 * only where it has not.
 */
const SHARES: Readonly<Record<BarBeats, readonly (readonly number[])[]>> = {
  3: [[1 / 3], [2 / 3], [1], [1 / 6, 1 / 2, 5 / 6], [1 / 4, 3 / 4], [4 / 3], [3 / 2]],
  4: [[1 / 4, 3 / 4], [1 / 2], [1], [1 / 8, 3 / 8, 5 / 8], [1 / 3, 2 / 3], [5 / 4], [3 / 2]],
};

/** A bar that may be a song's. */
export interface Bar {
  bpm: number;
  beats: BarBeats;
}

/** How a sound repeats, all that begins in it and what begins in the lows. */
export type Repetition = readonly [all: Float64Array, lows: Float64Array];

/** @param isLoop it goes on with its beginning where it ends */
export function repetitionOf({ strengths, lows }: Pick<Rhythm, 'strengths' | 'lows'>, isLoop = false): Repetition {
  const most = Math.ceil(LONGEST_SECONDS / ONSET_STEP_SECONDS);
  const [all, low] = [strengths, lows].map((onsets) => autocorrelation(sharpened(onsets), most, isLoop));
  return [all, low];
}

/** What speaks for a bar and against it; weighed by {@link scoreOf}. */
export function barFeatures(repetition: Repetition, { bpm, beats }: Bar): { repeats: number[]; tempo: number[] } {
  const bar = (60 * beats) / bpm / ONSET_STEP_SECONDS;
  const octaves = Math.log2(bpm / MIDDLE_BPM);
  const repeats = repetition.flatMap((correlation) =>
    SHARES[beats].map(
      (shares) => shares.reduce((sum, share) => sum + valueBetween(correlation, share * bar), 0) / shares.length,
    ),
  );
  return { repeats: [...repeats, 1], tempo: [octaves, octaves ** 2] };
}

/** What `npm run bench -- grid` found by songs whose tempos and bars are known. */
export interface BarWeights {
  repeats: Readonly<Record<`${BarBeats}`, readonly number[]>>;
  tempo: readonly number[];
}

const product = (first: readonly number[], second: readonly number[]) =>
  first.reduce((sum, value, i) => sum + value * second[i], 0);

/** How well a bar goes with a sound; e to its power is how likely it is beside others. */
function scoreOf(repetition: Repetition, bar: Bar, by: BarWeights): number {
  const { repeats, tempo } = barFeatures(repetition, bar);
  return product(repeats, by.repeats[bar.beats]) + product(tempo, by.tempo);
}

/** Every bar that is looked at. */
export const ALL_BARS: readonly Bar[] = BAR_BEATS.flatMap((beats) => TEMPOS.map((bpm) => ({ bpm, beats })));

/** So near two tempos are the same, as a share. */
const SAME = 0.03;
/** Half and double count as the same: both go with what is heard. */
export const isSameTempo = (first: number, second: number) =>
  [0.5, 1, 2].some((times) => Math.abs(first / (second * times) - 1) < SAME);

/** The bar that goes best with a sound. */
export interface LikelyBar extends Bar {
  /** 0 to 1: how likely its tempo is (or half, or double); and, if it is, its beats. */
  tempoShare: number;
  beatsShare: number;
  /** Half or double the tempo, where that is nearly as likely; null where neither is. */
  otherBpm: number | null;
}
/** Half and double are named from so much of the best's likelihood on. */
const NEARLY_AS_LIKELY = 0.25;

/** @param bars to choose from; not empty */
export function likelyBar(repetition: Repetition, bars = ALL_BARS, by: BarWeights = weights): LikelyBar {
  const scores = bars.map((bar) => scoreOf(repetition, bar, by));
  const best = bars[scores.indexOf(Math.max(...scores))];
  let [all, tempo, beats] = [0, 0, 0];
  let other = { bpm: 0, score: Math.max(...scores) + Math.log(NEARLY_AS_LIKELY) };
  bars.forEach((bar, i) => {
    const likely = Math.exp(scores[i]);
    all += likely;
    if (!isSameTempo(bar.bpm, best.bpm)) return;
    tempo += likely;
    if (bar.beats === best.beats) beats += likely;
    const isOther = Math.abs(Math.log2(bar.bpm / best.bpm)) > 0.5;
    if (isOther && scores[i] > other.score) other = { bpm: bar.bpm, score: scores[i] };
  });
  // Told exactly, from that of the best.
  const otherBpm = other.bpm === 0 ? null : other.bpm > best.bpm ? 2 * best.bpm : best.bpm / 2;
  return { ...best, tempoShare: tempo / all, beatsShare: beats / tempo, otherBpm };
}
