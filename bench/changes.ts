import { performance } from 'node:perf_hooks';
import { compileHearing, compileSong, Engine, PLAIN_HEARING, type CompiledSong } from '@/core/engine';
import { withEqualizers, type Band, type Song } from '@/core/song';
import { benchSong, percentile, sines, table } from './support';

/**
 * What a change of the whole mix costs: 64 stereo tracks of ten bands, everything changed every 0.4 s. Cost of each quantum of 128 frames, as a
 * share of its time, and of taking the change, in this thread without a browser.
 */
const RATE = 48000;
const QUANTUM = 128;
const QUANTUM_MS = (1000 * QUANTUM) / RATE;
const BETWEEN = 150;
const WARM_UP = 3000;
const QUANTA = 15000;

const source = sines(2);
const song = benchSong(64, 10, { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: 100 * RATE });
const withBands = (change: (band: Band, place: number) => Band): Song => ({
  ...song,
  tracks: song.tracks.map((track) => ({
    ...track,
    gainDb: -28,
    chain: withEqualizers(track.chain, (equalizer) => ({ ...equalizer, bands: equalizer.bands.map(change) })),
  })),
});

/** Costs of the quanta and of the changes, ms, while a song goes through some states. */
function costs(states: readonly CompiledSong[]): { quanta: number[]; changes: number[] } {
  const engine = new Engine(RATE, () => source);
  const out = [new Float32Array(QUANTUM), new Float32Array(QUANTUM)];
  const timed = (list: number[], i: number, run: () => void) => {
    const started = performance.now();
    run();
    if (i >= WARM_UP) list.push(performance.now() - started);
  };
  const quanta: number[] = [];
  const changes: number[] = [];
  for (let i = 0; i < QUANTA; i++) {
    if (i % BETWEEN === 0) timed(changes, i, () => engine.setSong(states[(i / BETWEEN) % states.length]));
    timed(quanta, i, () => engine.process(i * QUANTUM, QUANTUM, out[0], out[1]));
  }
  engine.release();
  return { quanta, changes };
}

const plain = compileSong(song);
const rows: [string, CompiledSong[]][] = [
  ['at rest', [plain]],
  ['before and after', [plain, compileHearing(song, { ...PLAIN_HEARING, without: { kind: 'mix' } })]],
  [
    'every band moves',
    [plain, compileSong(withBands((band) => ({ ...band, gainDb: -band.gainDb, frequencyHz: 1.2 * band.frequencyHz })))],
  ],
  [
    'one band of each track is of another type',
    [plain, compileSong(withBands((band, place) => (place === 0 ? { ...band, type: 'high-shelf' } : band)))],
  ],
];
const share = (ms: number) => `${((100 * ms) / QUANTUM_MS).toFixed(0)} %`;
console.log(
  table([
    ['64 stereo tracks, ten bands each', '50', '95', '99', '99.9', 'taking the change, ms'],
    ...rows.map(([name, states]) => {
      const { quanta, changes } = costs(states);
      const shares = [0.5, 0.95, 0.99, 0.999].map((at) => share(percentile(quanta, at)));
      return [name, ...shares, percentile(changes, 0.5).toFixed(2)];
    }),
  ]),
);
