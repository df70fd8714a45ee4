import { performance } from 'node:perf_hooks';
import { compileSong, Engine } from '@/core/engine';
import { firstEqualizer, type Song } from '@/core/song';
import { benchSong, median, sines, table } from './support';

/**
 * What the engine costs, in the quanta of 128 frames that a browser asks for: per track and per band, as a share of real time at
 * 48 kHz. The median of five runs of ten seconds of sound.
 */
const RATE = 48000;
const SECONDS = 10;
const ROUNDS = 5;
const QUANTUM = 128;

const songOf = (tracks: number, bands: number, channels: 1 | 2) =>
  benchSong(tracks, bands, { audioId: 'ab'.repeat(32), channels, lengthFrames: RATE * SECONDS });

/** Share of real time, median. @param disturb is called before every quantum */
function share(song: Song, disturb: (engine: Engine, quantum: number) => void = () => undefined): number {
  const shares: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const engine = new Engine(RATE, (track) => sines(track.channels));
    engine.setSong(compileSong(song));
    const left = new Float32Array(QUANTUM);
    const right = new Float32Array(QUANTUM);
    const run = (quanta: number) => {
      for (let i = 0; i < quanta; i++) {
        disturb(engine, i);
        engine.process(i * QUANTUM, QUANTUM, left, right);
      }
    };
    run(500);
    const started = performance.now();
    run((RATE * SECONDS) / QUANTUM);
    shares.push((performance.now() - started) / (SECONDS * 1000));
  }
  return median(shares);
}
const percent = (value: number) => `${(value * 100).toFixed(2)} %`;

console.log(`Share of real time at 48 kHz in quanta of ${QUANTUM}, median of ${ROUNDS} runs of ${SECONDS} s.\n`);
const rows: (string | number)[][] = [['song', 'share of real time']];
for (const channels of [1, 2] as const) {
  for (const tracks of [1, 12, 60])
    for (const bands of [0, 8])
      rows.push([
        `${tracks} ${channels === 1 ? 'mono' : 'stereo'} tracks, ${bands} bells each`,
        percent(share(songOf(tracks, bands, channels))),
      ]);
}
const states = Array.from({ length: 64 }, (_, i) => {
  const song = songOf(12, 8, 2);
  const [first, ...rest] = song.tracks;
  const bands = firstEqualizer(first)!.bands.map((band, b) =>
    b === 3 ? { ...band, frequencyHz: 300 + 20 * i } : band,
  );
  return compileSong({ ...song, tracks: [{ ...first, chain: [{ ...firstEqualizer(first)!, bands }] }, ...rest] });
});
rows.push([
  '12 stereo tracks, 8 bells each, one bell dragged 60 times a second',
  percent(share(songOf(12, 8, 2), (engine, i) => i % 6 === 0 && engine.setSong(states[(i / 6) % 64]))),
]);
console.log(table(rows));
const [none, eight] = [share(songOf(60, 0, 2)), share(songOf(60, 8, 2))];
console.log(
  `\nPer stereo track without bands ${percent(none / 60)}, per band of a stereo track ${percent((eight - none) / 480)}.`,
);
