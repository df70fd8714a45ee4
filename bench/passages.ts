import { performance } from 'node:perf_hooks';
import { compileSong, Engine } from '@/core/engine';
import type { FigureRef, Passage, PassageChange, Song } from '@/core/song';
import { gridLines, plainGrid } from '@/core/grid';
import { mixTracksOver } from '@/core/mix';
import { settingsAt } from '@/core/passages';
import { benchSong, median, sines, table } from './support';

/**
 * What passages cost: the audio thread's work in quanta of 128 frames with 500 passages on 60 stereo tracks of eight bells, outside of all of
 * them and inside ten at once, against the same song without any, in turns in one run; and what an edit costs the page.
 */
const RATE = 48000;
const QUANTUM = 128;
/** The songs take turns that are so short that what else the machine does is the same for all of them. */
const TURNS = 800;
const TURN_QUANTA = 40;
const WARM_UP_QUANTA = 300;
/** Played over and over. */
const SECONDS = 20;
const TRACKS = 60;
const PASSAGES = 500;
/** Where nothing holds, and where ten hold at once. */
const QUIET_FROM = 2000;
const BUSY_FROM = 5000;

const source = sines(2);
const plain = benchSong(TRACKS, 8, { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: RATE * 7200 });

const ref = (track: number, of: FigureRef['of'], partId: string, field: string): FigureRef => ({
  stripId: `t${track}`,
  of,
  partId,
  field,
});
const change = (figure: FigureRef, value: number, lineTo?: { value: number; seconds: number }): PassageChange => ({
  figure,
  value,
  points: lineTo
    ? [
        { atSeconds: 0, value },
        { atSeconds: lineTo.seconds, value: lineTo.value },
      ]
    : [],
});
const passage = (id: string, startSeconds: number, seconds: number, changes: PassageChange[]): Passage => ({
  id,
  name: id,
  startSeconds,
  endSeconds: startSeconds + seconds,
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  enabled: true,
  changes,
});

/** Ten at once, each with a line of a frequency and one of a level; all others before and behind. */
const passages = Array.from({ length: PASSAGES }, (_, i): Passage => {
  const track = i % TRACKS;
  if (i < 10) {
    const seconds = 60 + i;
    return passage(`p${i}`, BUSY_FROM - 1 - 0.37 * i, seconds, [
      change(ref(track, 'band', `${track}-3`, 'frequencyHz'), 300, { value: 3000, seconds }),
      change(ref(track, 'strip', '', 'gainDb'), -30, { value: -24, seconds }),
    ]);
  }
  return passage(`p${i}`, 3 * i, 2, [
    change(ref(track, 'band', `${track}-2`, 'gainDb'), -9),
    change(ref(track, 'strip', '', 'gainDb'), -36),
  ]);
});
const full: Song = { ...plain, passages };

/** A song that goes on from turn to turn. */
class Playing {
  private readonly engine = new Engine(RATE, () => source);
  private readonly left = new Float32Array(QUANTUM);
  private readonly right = new Float32Array(QUANTUM);
  private frame: number;

  constructor(
    song: Song,
    private readonly fromFrame: number,
  ) {
    this.engine.setSong(compileSong(song));
    this.frame = fromFrame;
    this.engine.jump(fromFrame);
    this.run(WARM_UP_QUANTA);
  }

  /** @returns milliseconds a quantum, over so many of them */
  run(quanta: number): number {
    if (this.frame > this.fromFrame + SECONDS * RATE) {
      this.frame = this.fromFrame;
      this.engine.jump(this.fromFrame);
    }
    const began = performance.now();
    for (let i = 0; i < quanta; i++)
      for (let done = 0; done < QUANTUM;) {
        const count = this.engine.runLength(this.frame, QUANTUM - done);
        this.engine.process(this.frame, count, this.left, this.right);
        this.frame += count;
        done += count;
      }
    return (performance.now() - began) / quanta;
  }
}

const cases: [string, Song, number][] = [
  ['without passages', plain, QUIET_FROM],
  ['without passages, once more', plain, BUSY_FROM],
  [`${PASSAGES} passages, outside of all`, full, QUIET_FROM],
  [`${PASSAGES} passages, inside ten with two lines each`, full, BUSY_FROM],
];
// Not on a multiple of what the engine is told at: the page goes anywhere.
const playing = cases.map(([, song, from]) => new Playing(song, from * RATE + 77));
const spent = cases.map((): number[] => []);
for (let turn = 0; turn < TURNS; turn++) {
  const first = turn % playing.length;
  for (let i = 0; i < playing.length; i++) {
    const which = (first + i) % playing.length;
    spent[which].push(playing[which].run(TURN_QUANTA));
  }
}
const quantumMs = (1000 * QUANTUM) / RATE;
const more = spent.map((all) => median(all.map((ms, turn) => ms - spent[0][turn])));
const ofQuantum = (ms: number) => `${((100 * ms) / quantumMs).toFixed(1)} %`;
console.log(
  `${TRACKS} stereo tracks of 8 bells, quanta of ${QUANTUM} at 48 kHz, medians of ${TURNS} turns of ${TURN_QUANTA} quanta each.\n`,
);
console.log(
  table([
    ['song', 'of a quantum', 'more than without'],
    ...cases.map(([name], i) => [name, ofQuantum(median(spent[i])), ofQuantum(more[i])]),
  ]),
);

const timed = (work: () => void, rounds: number) => {
  const all: number[] = [];
  for (let i = 0; i < rounds; i++) {
    const began = performance.now();
    work();
    all.push(performance.now() - began);
  }
  return median(all);
};
let edited = 0;
const edit = () => {
  edited++;
  const tracks = full.tracks.map((track, i) => (i === 0 ? { ...track, gainDb: -30 + (edited % 10) } : track));
  compileSong({ ...full, tracks });
};
const dragged = () => {
  edited++;
  const changed = passages.map((passage, i) =>
    i === 5 ? { ...passage, endSeconds: passage.endSeconds + 0.01 * (edited % 10) } : passage,
  );
  compileSong({ ...full, passages: changed });
};
const grid = plainGrid(120);
console.log(
  `\n${table([
    ['what the page does with it', 'ms'],
    [
      'compiles the song for the first time',
      timed(() => compileSong({ ...full, tracks: full.tracks.map((track) => ({ ...track })) }), 5).toFixed(1),
    ],
    ['compiles it after an edit of one track', timed(edit, 20).toFixed(1)],
    ['compiles it after a drag of one passage with lines', timed(dragged, 20).toFixed(1)],
    [
      'works out the gains of the mix over ten minutes',
      timed(() => mixTracksOver(full, { from: 0, to: 12000 }), 5).toFixed(1),
    ],
    ['tells what holds at a moment', timed(() => settingsAt(full, BUSY_FROM + 1 + edited++ / 1000), 50).toFixed(2)],
    [
      'finds the lines of the grid in what is shown of two hours',
      timed(() => gridLines(grid, 0, 7200, 60), 50).toFixed(2),
    ],
  ])}`,
);
