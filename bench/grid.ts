import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  ALL_BARS,
  barFeatures,
  findDownbeat,
  findGrid,
  gridFrom,
  gridLines,
  isSameTempo,
  likelyBar,
  repetitionOf,
  RhythmListener,
  type Bar,
  type BarWeights,
  type Repetition,
  type Rhythm,
} from '@/core/grid';
import { percentile, table } from './support';
import { RATE } from './recordings/recordings';
import { knownSongs, wanderingSongs, type KnownSong } from './recordings/known-bars';

/**
 * Tempo and bars of songs that are played from MIDI files of a Debian package: by name only, `npm run bench -- grid`. Sets the weights of
 * `core/grid/bar-weights.json` by all of the songs; what it prints is found by weights that were set by the other half of them.
 */
interface Learnt extends KnownSong {
  rhythm: Rhythm;
  repetition: Repetition;
}

function rhythmOf(samples: Float32Array): Rhythm {
  const listener = new RhythmListener(RATE);
  listener.push(samples, samples, samples.length);
  return listener.rhythm;
}

const songs = knownSongs().map((song): Learnt => {
  const samples = song.make();
  const rhythm = rhythmOf(samples);
  return { ...song, rhythm, repetition: repetitionOf(rhythm) };
});

/** Smaller steps of tempo than this are not told apart. */
const EXACT = 0.0045;
/** How much great weights cost. */
const DECAY = 0.01;
const ROUNDS = 800;

/** What is learnt from a song: the features of all bars, which are right, and which are passed over since they are nearly so. */
function examplesOf({ repetition, bpm, beats }: Learnt) {
  return ALL_BARS.flatMap((bar) => {
    const off = Math.abs(Math.log(bar.bpm / bpm));
    const isRight = off < EXACT && bar.beats === beats;
    // Half, double and a little beside are not wrong; the other number of beats at the same tempo is.
    if (!isRight && isSameTempo(bar.bpm, bpm) && (bar.beats === beats || off > EXACT)) return [];
    return { bar, isRight, ...barFeatures(repetition, bar) };
  });
}
const examples = new Map(songs.map((song) => [song, examplesOf(song)]));

/** Weights by which the right bars of some songs are likely: softmax, gradients by Adam (Kingma and Ba, ICLR 2015). */
function learn(from: readonly Learnt[]): BarWeights {
  const repeats = examples.get(from[0])![0].repeats.length;
  const size = 2 * repeats + 2;
  const [weights, first, second] = [0, 0, 0].map(() => new Float64Array(size));
  const placed = (bar: Bar, own: readonly number[], tempo: readonly number[]) => ({
    at: bar.beats === 3 ? 0 : repeats,
    values: own,
    tempo,
  });
  const all = from.map((song) =>
    examples.get(song)!.map(({ bar, isRight, repeats: own, tempo }) => ({ isRight, ...placed(bar, own, tempo) })),
  );
  for (let round = 1; round <= ROUNDS; round++) {
    const gradient = weights.map((weight) => 2 * DECAY * weight);
    for (const song of all) {
      const scores = song.map(({ at, values, tempo }) => {
        let score = weights[size - 2] * tempo[0] + weights[size - 1] * tempo[1];
        for (let i = 0; i < values.length; i++) score += weights[at + i] * values[i];
        return score;
      });
      const most = Math.max(...scores);
      const likely = scores.map((score) => Math.exp(score - most));
      const sum = likely.reduce((total, value) => total + value, 0);
      const right = song.reduce((total, { isRight }, i) => total + (isRight ? likely[i] : 0), 0);
      song.forEach(({ isRight, at, values, tempo }, n) => {
        const by = (likely[n] / sum - (isRight ? likely[n] / right : 0)) / all.length;
        for (let i = 0; i < values.length; i++) gradient[at + i] += by * values[i];
        gradient[size - 2] += by * tempo[0];
        gradient[size - 1] += by * tempo[1];
      });
    }
    const pace = 0.15 * (1 - round / (ROUNDS + 1));
    for (let i = 0; i < size; i++) {
      first[i] = 0.9 * first[i] + 0.1 * gradient[i];
      second[i] = 0.99 * second[i] + 0.01 * gradient[i] ** 2;
      weights[i] -= (pace * first[i]) / (1 - 0.9 ** round) / (Math.sqrt(second[i] / (1 - 0.99 ** round)) + 1e-8);
    }
  }
  const rounded = [...weights].map((weight) => Math.round(1000 * weight) / 1000);
  return {
    repeats: { 3: rounded.slice(0, repeats), 4: rounded.slice(repeats, 2 * repeats) },
    tempo: rounded.slice(-2),
  };
}

const files = [...new Set(songs.map(({ file }) => file))];
const half = (odd: number) => songs.filter(({ file }) => files.indexOf(file) % 2 === odd);
const found = [0, 1].flatMap((odd) => {
  const weights = learn(half(1 - odd));
  return half(odd).map((song) => {
    const bar = likelyBar(song.repetition, ALL_BARS, weights);
    const isTempo = isSameTempo(bar.bpm, song.bpm);
    return { song, bar, isTempo, isBar: isTempo && bar.beats === song.beats };
  });
});
/** Of those with the right bars: how many begin where they do, by their true beats. */
const begun = songs.map(({ rhythm, bpm, beats, startSeconds }) => {
  const times = Array.from(
    { length: Math.floor(((66 - startSeconds) * bpm) / 60) },
    (_, i) => startSeconds + (60 * i) / bpm,
  );
  return findDownbeat(rhythm, times, beats);
});
console.log(
  `First beats of bars, where beats are known: ${begun.filter(({ first }) => first === 0).length} of ${begun.length}; said to be ${(begun.reduce((sum, { share }) => sum + share, 0) / begun.length).toFixed(2)} likely on average.`,
);

const counted = (some: typeof found) =>
  `${some.filter(({ isTempo }) => isTempo).length} of ${some.length} tempos (or half, or double), ${some.filter(({ isBar }) => isBar).length} with their beats`;
console.log(`By weights that were set by other songs: ${counted(found)}.`);
const sureAbove = (least: number) => found.filter(({ bar }) => bar.tempoShare >= least);
console.log(`Of those with a share of 0.75 and more: ${counted(sureAbove(0.75))}.`);
console.log(
  table([
    ['not found', 'wanted', 'found', 'share of the tempo', 'of the beats'],
    ...found
      .filter(({ isBar }) => !isBar)
      .map(({ song, bar }) => [
        song.name,
        `${song.bpm.toFixed(1)} in ${song.beats}`,
        `${bar.bpm.toFixed(1)} in ${bar.beats}`,
        bar.tempoShare.toFixed(2),
        bar.beatsShare.toFixed(2),
      ]),
  ]),
);

const wandering = wanderingSongs().map(({ name, beatSeconds, make }) => {
  const samples = make();
  const grid = findGrid(rhythmOf(samples), samples.length / RATE)!;
  const lines = gridLines(gridFrom(grid), grid.barSeconds, beatSeconds[beatSeconds.length - 4], 0.05);
  const off = lines.map(({ seconds }) => 1000 * Math.min(...beatSeconds.map((beat) => Math.abs(beat - seconds))));
  return [
    name,
    grid.bpm.toFixed(1),
    grid.tempos.length,
    ...[0.5, 0.9].map((share) => percentile(off, share).toFixed(0)),
    grid.sureness.toFixed(2),
  ];
});
console.log(table([['followed', 'bpm', 'tempos', 'lines beside beats, ms, 50 %', '90 %', 'sure'], ...wandering]));

writeFileSync(join(process.cwd(), 'core/grid/bar-weights.json'), `${JSON.stringify(learn(songs), null, 2)}\n`);
console.log('Wrote core/grid/bar-weights.json, by all of them.');
