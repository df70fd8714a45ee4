import { ONSET_STEP_SECONDS } from './onsets';

/** A tempo that was found. */
export interface FoundTempo {
  /** Quarter notes a minute. */
  bpm: number;
  /** Where a first beat lies, seconds from the beginning of what was looked at. */
  beatSeconds: number;
  /** 0 to 1: how far the stretches of the sound agree. */
  sureness: number;
}

/** Tempos that are looked at. */
const RANGE = { from: 50, to: 210 };
/** People feel beats about here: a log-normal weight. Source: D. P. W. Ellis, "Beat Tracking by Dynamic Programming", J. New Music Res. 36(1), 2007; its width is set here. */
const USUAL_BPM = 115;
const WIDTH_OCTAVES = 0.75;
/** Stretches that are asked one by one whether they agree, seconds. */
const STRETCH = 8;
/** So near two tempos are the same, as a share. */
const SAME = 0.025;
/** What is shorter may be a loop: then its length is a whole number of beats. */
const LONGEST_LOOP = 16;
const LOOP_BEATS = [2, 3, 4, 6, 8, 12, 16, 24, 32];
/** Below this nothing is said. */
export const SURE_FROM = 0.5;

/** Onsets without what is always there: what stands over the mean of half a second around, smoothed a little. */
function sharpened(strengths: ArrayLike<number>): Float64Array {
  const around = Math.round(0.25 / ONSET_STEP_SECONDS);
  const sums = new Float64Array(strengths.length + 1);
  for (let n = 0; n < strengths.length; n++) sums[n + 1] = sums[n] + strengths[n];
  return Float64Array.from({ length: strengths.length }, (_, n) => {
    const [from, to] = [Math.max(0, n - around), Math.min(strengths.length, n + around + 1)];
    return Math.max(0, strengths[n] - (sums[to] - sums[from]) / (to - from));
  });
}

/** Autocorrelation up to a lag, each divided by how much there is of it. */
function autocorrelation(values: Float64Array, most: number): Float64Array {
  const mean = values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
  return Float64Array.from({ length: Math.min(most, values.length - 1) }, (_, lag) => {
    let sum = 0;
    for (let n = lag; n < values.length; n++) sum += (values[n] - mean) * (values[n - lag] - mean);
    return sum / (values.length - lag);
  });
}

const at = (values: Float64Array, place: number) => {
  const whole = Math.floor(place);
  if (whole + 1 >= values.length) return 0;
  return values[whole] + (place - whole) * (values[whole + 1] - values[whole]);
};

/** How well a tempo goes with an autocorrelation: what is there after one beat, two, three and four. */
function scoreOf(correlation: Float64Array, bpm: number): number {
  const lag = 60 / bpm / ONSET_STEP_SECONDS;
  let score = 0;
  for (let beats = 1; beats <= 4; beats++)
    score += at(correlation, beats * lag) / (beats === 1 || beats === 4 ? 1 : 1.5);
  const octaves = Math.log2(bpm / USUAL_BPM) / WIDTH_OCTAVES;
  return (score / Math.max(1e-12, correlation[0])) * Math.exp(-0.5 * octaves ** 2);
}

/** The tempo that goes best with a stretch. */
function bestOf(correlation: Float64Array): { bpm: number; score: number } {
  let best = { bpm: USUAL_BPM, score: -Infinity };
  for (let bpm = RANGE.from; bpm <= RANGE.to; bpm *= 1.004) {
    const score = scoreOf(correlation, bpm);
    if (score > best.score) best = { bpm, score };
  }
  return best;
}

/** How far onsets gather at the beats of a tempo, over all of a sound, and where these lie, as a share of a beat. */
function gathered(values: Float64Array, bpm: number, perBeat: number): { size: number; phase: number } {
  const step = (2 * Math.PI * perBeat * bpm * ONSET_STEP_SECONDS) / 60;
  let [re, im] = [0, 0];
  for (let n = 0; n < values.length; n++) {
    re += values[n] * Math.cos(step * n);
    im += values[n] * Math.sin(step * n);
  }
  return { size: Math.hypot(re, im), phase: Math.atan2(im, re) / (2 * Math.PI) };
}

/** The same tempo more exactly: that at which most onsets lie on beats, halves and quarters of beats. */
function refined(values: Float64Array, bpm: number): number {
  const length = values.length * ONSET_STEP_SECONDS;
  let [best, from] = [bpm, -Infinity];
  const look = (middle: number, span: number, steps: number) => {
    const centre = middle;
    for (let i = -steps; i <= steps; i++) {
      const tried = centre * (1 + (span * i) / steps);
      const size = [1, 2, 4].reduce((sum, perBeat) => sum + gathered(values, tried, perBeat).size, 0);
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

const isSameTempo = (one: number, other: number) =>
  [0.5, 1, 2].some((times) => Math.abs(one / (other * times) - 1) < SAME);

/** How many of some stretches have a tempo of their own that is the same, weighted by how plain it is. */
function agreement(values: Float64Array, bpm: number): number {
  const frames = Math.round(STRETCH / ONSET_STEP_SECONDS);
  const most = Math.round(4.9 / ONSET_STEP_SECONDS);
  let [agreed, all] = [0, 0];
  for (let from = 0; from === 0 || from + frames <= values.length; from += Math.round(frames / 2)) {
    const own = bestOf(autocorrelation(values.subarray(from, from + frames), most));
    const weight = Math.max(0.02, own.score);
    all += weight;
    if (isSameTempo(own.bpm, bpm)) agreed += weight;
  }
  return all === 0 ? 0 : agreed / all;
}

/** Between these, how much begins in a sound, and how plainly it repeats, speak for a beat: by recordings with one and without. */
const BEGINS = { from: 0.4, to: 0.8 };
const PLAIN = { from: 0.2, to: 0.7 };

/**
 * The tempo of a sound by when things begin in it; one tempo for all of it.
 * @param strengths see `OnsetStrength`
 * @param lengthSeconds of the sound
 * @returns null where too little begins in it
 */
export function findTempo(strengths: ArrayLike<number>, lengthSeconds: number): FoundTempo | null {
  const values = sharpened(strengths);
  const sum = values.reduce((total, value) => total + value, 0);
  if (values.length * ONSET_STEP_SECONDS < 0.8 || sum < 1) return null;
  const correlation = autocorrelation(
    values.subarray(0, Math.round(120 / ONSET_STEP_SECONDS)),
    Math.round(4.9 / ONSET_STEP_SECONDS),
  );
  const rough = bestOf(correlation);
  const loop = lengthSeconds <= LONGEST_LOOP ? loopTempo(values, lengthSeconds) : null;
  const bpm = loop?.bpm ?? refined(values, rough.bpm);
  const beginnings = growing(sum / values.length, BEGINS);
  const plainness = growing(loop?.score ?? rough.score, PLAIN);
  const sureness = beginnings * plainness * (loop ? 1 : agreement(values, bpm));
  return { bpm, beatSeconds: firstBeat(values, bpm), sureness };
}

/** From 0 to 1 between two values. */
const growing = (value: number, { from, to }: { from: number; to: number }) =>
  Math.min(1, Math.max(0, (value - from) / (to - from)));

/** Autocorrelation of what goes on where it ends with where it began. */
function circular(values: Float64Array, most: number): Float64Array {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  return Float64Array.from({ length: most }, (_, lag) => {
    let sum = 0;
    for (let n = 0; n < values.length; n++) sum += (values[n] - mean) * (values[(n + lag) % values.length] - mean);
    return sum / values.length;
  });
}

/** The tempo at which a loop is as long as it is: that of its beats which goes best with it. */
function loopTempo(values: Float64Array, lengthSeconds: number): { bpm: number; score: number } | null {
  const whole = values.subarray(0, Math.round(lengthSeconds / ONSET_STEP_SECONDS));
  const correlation = circular(whole, Math.round(4.9 / ONSET_STEP_SECONDS));
  const fitting = LOOP_BEATS.map((beats) => (60 * beats) / lengthSeconds)
    .filter((bpm) => bpm >= RANGE.from && bpm <= RANGE.to)
    .map((bpm) => ({ bpm, score: scoreOf(correlation, bpm) }))
    .sort((one, other) => other.score - one.score);
  return fitting[0] ?? null;
}

/** Where the first beat lies: the place within a beat at which most begins, in the middle of what a frame sees. */
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
  const seconds = (best / steps) * beat;
  return seconds > beat - 2 * ONSET_STEP_SECONDS ? 0 : seconds;
}
