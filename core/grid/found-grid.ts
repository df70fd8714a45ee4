import type { Grid } from '../song';
import {
  ALL_BARS,
  BAR_BEATS,
  isSameTempo,
  likelyBar,
  repetitionOf,
  type Bar,
  type BarBeats,
  type LikelyBar,
} from './bar-score';
import { beatStrengths, evenBeats, onsetSeconds, strengthOn, temposThrough, trackedBeats } from './beats';
import { sharpened } from './correlation';
import { findDownbeat } from './downbeat';
import { ONSET_STEP_SECONDS } from './onsets';
import type { Rhythm } from './rhythm';

/** A grid that was found. */
export interface FoundGrid {
  /** Quarter notes a minute; of what is not played evenly, on average. */
  bpm: number;
  /** What holds from places on, quarter notes from the first bar line; one where it is played evenly. */
  tempos: { quarter: number; bpm: number }[];
  /** Half or double the tempo, where that is nearly as likely. */
  otherBpm: number | null;
  beats: BarBeats;
  /** Where the first bar line lies, seconds. */
  barSeconds: number;
  /** 0 to 1: how likely the tempo is; if it is, the number of beats of a bar; and, if both are, where bars begin. */
  sureness: number;
  beatsSureness: number;
  barSureness: number;
}

/** Tempos that are whole numbers, as songs that are played to a click have them, but for so much. */
const WHOLE = 0.02;
const rounded = (bpm: number) =>
  Math.abs(bpm - Math.round(bpm)) < WHOLE ? Math.round(bpm) : Math.round(bpm * 1000) / 1000;

/** What was found as a song's grid. */
export const gridFrom = ({ tempos, beats, barSeconds }: FoundGrid): Grid => ({
  startSeconds: Math.round(barSeconds * 1000) / 1000,
  tempos: tempos.map(({ quarter, bpm }) => ({ quarter, bpm: rounded(bpm) })),
  metres: [{ bar: 1, beats, unit: 4 }],
});

/** Stretches that are asked one by one whether they agree, seconds. */
const STRETCH = 12;
/** What is shorter may be a loop: then its length is a whole number of beats. */
const LONGEST_LOOP = 16;
const LOOP_BEATS = [2, 3, 4, 6, 8, 12, 16, 24, 32];
/** Below this nothing is said. */
export const SURE_FROM = 0.5;
/** So much more has to begin on beats that follow the playing, so that they are preferred to even ones. */
const WORTH_FOLLOWING = 1.25;

/** How far onsets gather at the beats of a tempo, their halves and their quarters, over all of a sound. */
function gathered(values: Float64Array, bpm: number): number {
  const turn = (2 * Math.PI * bpm * ONSET_STEP_SECONDS) / 60;
  const [stepRe, stepIm] = [Math.cos(turn), Math.sin(turn)];
  const beat = { re: 0, im: 0 };
  const half = { re: 0, im: 0 };
  const quarter = { re: 0, im: 0 };
  // Twice the angle is the square.
  let [re, im] = [1, 0];
  for (let n = 0; n < values.length; n++) {
    const value = values[n];
    const [re2, im2] = [re * re - im * im, 2 * re * im];
    beat.re += value * re;
    beat.im += value * im;
    half.re += value * re2;
    half.im += value * im2;
    quarter.re += value * (re2 * re2 - im2 * im2);
    quarter.im += value * 2 * re2 * im2;
    [re, im] = [re * stepRe - im * stepIm, re * stepIm + im * stepRe];
  }
  return [beat, half, quarter].reduce((sum, gone) => sum + Math.hypot(gone.re, gone.im), 0);
}

/** The same tempo more exactly: that at which most onsets lie on beats, halves and quarters of beats. */
function refined(values: Float64Array, bpm: number): number {
  const length = values.length * ONSET_STEP_SECONDS;
  let [best, from] = [bpm, -Infinity];
  const look = (middle: number, span: number, steps: number) => {
    const centre = middle;
    for (let i = -steps; i <= steps; i++) {
      const tried = centre * (1 + (span * i) / steps);
      const size = gathered(values, tried);
      if (size > from) [best, from] = [tried, size];
    }
  };
  // A beat is found as finely as the sound is long.
  const fine = Math.min(0.02, 15 / (bpm * length));
  look(bpm, 0.02, Math.max(6, Math.ceil(0.04 / fine)));
  look(best, fine, 10);
  look(best, fine / 10, 10);
  return best;
}

/** The bar of a stretch, by itself. */
interface Stretch {
  middleSeconds: number;
  bar: LikelyBar;
}

function stretchesOf({ strengths, lows }: Rhythm): Stretch[] {
  const frames = Math.round(STRETCH / ONSET_STEP_SECONDS);
  const part = (values: ArrayLike<number>, from: number) => Array.prototype.slice.call(values, from, from + frames);
  const stretches: Stretch[] = [];
  for (let from = 0; from === 0 || from + frames <= strengths.length; from += Math.round(frames / 2))
    stretches.push({
      middleSeconds: (from + frames / 2) * ONSET_STEP_SECONDS,
      bar: likelyBar(repetitionOf({ strengths: part(strengths, from), lows: part(lows, from) })),
    });
  return stretches;
}

/** How many of some stretches have the tempo that holds there, weighted by how plain theirs is. */
function agreement(stretches: readonly Stretch[], bpmAt: (seconds: number) => number): number {
  let [agreed, all] = [0, 0];
  for (const { middleSeconds, bar } of stretches) {
    all += bar.tempoShare;
    if (isSameTempo(bar.bpm, bpmAt(middleSeconds))) agreed += bar.tempoShare;
  }
  return agreed / all;
}

/** How far a band without a click goes from its tempo, as a ratio. */
const WANDERS = 1.08;

/** The bar that most stretches have, give or take how far a band wanders. */
function usualBar(stretches: readonly Stretch[]): LikelyBar {
  const alike = (likely: LikelyBar) =>
    stretches.filter(
      ({ bar }) => bar.beats === likely.beats && Math.max(bar.bpm / likely.bpm, likely.bpm / bar.bpm) < WANDERS,
    );
  const weight = (some: readonly Stretch[]) => some.reduce((sum, { bar }) => sum + bar.tempoShare, 0);
  const bars = stretches.map(({ bar }) => bar);
  return bars.reduce((best, bar) => (weight(alike(bar)) > weight(alike(best)) ? bar : best));
}

/** Between these, how much begins in a sound speaks for a beat: by recordings with one and without. */
const BEGINS = { from: 0.4, to: 0.8 };

/** From 0 to 1 between two values. */
const growing = (value: number, { from, to }: { from: number; to: number }) =>
  Math.min(1, Math.max(0, (value - from) / (to - from)));

/** Bars of a loop: their beats are a whole number of its length. */
const loopBars = (lengthSeconds: number): Bar[] =>
  LOOP_BEATS.flatMap((all) => BAR_BEATS.map((beats) => ({ bpm: (60 * all) / lengthSeconds, beats }))).filter(
    ({ bpm }) => bpm >= ALL_BARS[0].bpm && bpm <= ALL_BARS[ALL_BARS.length - 1].bpm,
  );

/** Where the first beat of an even tempo lies: the place within a beat at which most begins. */
function firstBeat(values: Float64Array, bpm: number): number {
  const beat = 60 / bpm;
  const steps = Math.round(beat / ONSET_STEP_SECONDS);
  const places = new Float64Array(steps);
  for (let n = 0; n < values.length; n++) {
    const share = ((n * ONSET_STEP_SECONDS) / beat) % 1;
    places[Math.floor(share * steps)] += values[n];
  }
  let best = 0;
  for (let i = 1; i < steps; i++) if (places[i] > places[best]) best = i;
  return best > steps - 2 ? 0 : onsetSeconds(best);
}

/**
 * The tempo and the bars of a sound, by when things begin in it and when its chords change.
 * @param lengthSeconds of the sound
 * @returns null where too little begins in it
 */
export function findGrid(rhythm: Rhythm, lengthSeconds: number): FoundGrid | null {
  const { strengths } = rhythm;
  const values = sharpened(strengths);
  const sum = values.reduce((total, value) => total + value, 0);
  if (values.length * ONSET_STEP_SECONDS < 0.8 || sum < 1) return null;
  const begins = growing(sum / values.length, BEGINS);
  const felt = beatStrengths(strengths);
  const bars = lengthSeconds <= LONGEST_LOOP ? loopBars(lengthSeconds) : [];
  const isLoop = bars.length > 0;
  const whole = likelyBar(repetitionOf(rhythm, isLoop), isLoop ? bars : ALL_BARS);
  const evenBpm = isLoop ? whole.bpm : refined(values, whole.bpm);
  const even = evenBeats(evenBpm, firstBeat(values, evenBpm), lengthSeconds);

  /** A bar, its beats, and which of these is the first of one. */
  const found = (bar: LikelyBar, beats: readonly number[], agreed: number) => {
    const { first, share } = findDownbeat(rhythm, beats, bar.beats);
    const sureness = begins * bar.tempoShare * agreed;
    return {
      first,
      grid: { beats: bar.beats, barSeconds: beats[first], sureness, beatsSureness: bar.beatsShare, barSureness: share },
    };
  };
  const otherOf = ({ bpm, otherBpm }: LikelyBar, own: number) => otherBpm && (own * otherBpm) / bpm;
  const plain = (agreed: number): FoundGrid => ({
    ...found(whole, even, agreed).grid,
    bpm: evenBpm,
    otherBpm: otherOf(whole, evenBpm),
    tempos: [{ quarter: 0, bpm: evenBpm }],
  });
  if (isLoop) return plain(1);

  const stretches = stretchesOf(rhythm);
  const usual = usualBar(stretches);
  const followed = trackedBeats(felt, usual.bpm);
  const isFollowed = followed.length > 1 && strengthOn(felt, followed) >= WORTH_FOLLOWING * strengthOn(felt, even);
  if (!isFollowed) return plain(agreement(stretches, () => evenBpm));
  const tempos = temposThrough(followed);
  const bpmAt = (seconds: number) => tempos.findLast(({ beat }) => followed[beat] <= seconds)?.bpm ?? tempos[0].bpm;
  const { first, grid } = found(usual, followed, agreement(stretches, bpmAt));
  const bpm = (60 * (followed.length - 1)) / (followed[followed.length - 1] - followed[0]);
  return {
    ...grid,
    bpm,
    otherBpm: otherOf(usual, bpm),
    tempos: temposThrough(followed.slice(first)).map(({ beat, bpm: own }) => ({ quarter: beat, bpm: own })),
  };
}
