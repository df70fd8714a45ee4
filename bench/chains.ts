import { performance } from 'node:perf_hooks';
import { compileSong, Engine, type SampleSource } from '@/core/engine';
import {
  newBus,
  newProcessor,
  OWN_KEY,
  withEqualizers,
  type Band,
  type ChainProcessor,
  type ProcessorKind,
  type Song,
} from '@/core/song';
import { benchSong, percentile, table } from './support';

/**
 * What chains of processors cost in the quanta of 128 frames that a browser asks for: a large mix as a whole, and the share of each kind,
 * as the difference of two songs that run in turns in one process. Noise in bursts, so that everything that reacts to a level does.
 */
const RATE = 48000;
const QUANTUM = 128;
const QUANTA = 3000;
const ROUNDS = 5;
const QUANTUM_MS = (1000 * QUANTUM) / RATE;
const TRACKS = 64;
const BANDS = 10;

let state = 7;
const noise = Float64Array.from({ length: 131072 }, (_, n) => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return (state / 2 ** 31 - 1) * (n % 24000 < 6000 ? 0.4 : 0.01);
});
const source: SampleSource = {
  channels: 2,
  read: (frame, count, left, right) => {
    const start = frame % 65536;
    left.set(noise.subarray(start, start + count));
    right.set(noise.subarray(start + 3001, start + 3001 + count));
  },
};

const plain = benchSong(TRACKS, BANDS, { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: RATE * 60 });

const ACTIVE: Partial<Record<ProcessorKind, object>> = {
  gate: { thresholdDb: -30 },
  compressor: { thresholdDb: -30 },
  clipper: { driveDb: 6 },
  ducker: { depthDb: 12, key: { stripId: 't0', lowHz: null, highHz: null }, range: { lowHz: 40, highHz: 120 } },
  reverb: { dry: false },
  limiter: { ceilingDb: -6 },
};
const processor = (kind: ProcessorKind, id: string) =>
  ({ ...newProcessor(kind, id), ...ACTIVE[kind] }) as ChainProcessor;

/** The song with a processor on some of its tracks, from one on. */
const withTracks = (song: Song, kind: ProcessorKind, from: number, count: number): Song => ({
  ...song,
  tracks: song.tracks.map((track, i) =>
    i >= from && i < from + count ? { ...track, chain: [...track.chain, processor(kind, `${kind}-${i}`)] } : track,
  ),
});

/** The first band of some tracks gives way to its own range. */
const withGiving = (song: Song, count: number): Song => ({
  ...song,
  tracks: song.tracks.map((track, i) =>
    i >= count
      ? track
      : {
          ...track,
          chain: withEqualizers(track.chain, (equalizer) => ({
            ...equalizer,
            bands: equalizer.bands.map((band, b): Band =>
              b > 0
                ? band
                : {
                    ...band,
                    givesWay: {
                      amountDb: -9,
                      thresholdDb: -40,
                      attackMs: 5,
                      holdMs: 0,
                      releaseMs: 100,
                      key: { stripId: OWN_KEY, lowHz: 60, highHz: 200 },
                    },
                  },
            ),
          })),
        },
  ),
});

const withReturns = (song: Song, count: number, hasReverb = true): Song => ({
  ...song,
  tracks: song.tracks.map((track, i) => ({
    ...track,
    sends: count > 0 ? [{ busId: `room${i % count}`, gainDb: -12, tap: 'after-fader' as const, enabled: true }] : [],
  })),
  buses: Array.from({ length: count }, (_, i) => ({
    ...newBus({ id: `room${i}`, name: `Room ${i}`, ink: 0 }),
    chain: hasReverb ? [processor('reverb', `room${i}-reverb`)] : [],
  })),
});
const withLimiter = (song: Song): Song => ({
  ...song,
  master: { ...song.master, chain: [...song.master.chain, processor('limiter', 'last')] },
});

function engineOf(song: Song): Engine {
  const engine = new Engine(RATE, () => source);
  engine.setSong(compileSong(song));
  return engine;
}

/** Milliseconds of each quantum, some engines in turns. */
function run(engines: readonly Engine[]): Float64Array[] {
  const times = engines.map(() => new Float64Array(QUANTA));
  const left = new Float32Array(QUANTUM);
  const right = new Float32Array(QUANTUM);
  for (let i = 0; i < QUANTA; i++)
    engines.forEach((engine, e) => {
      const began = performance.now();
      engine.process(i * QUANTUM, QUANTUM, left, right);
      times[e][i] = performance.now() - began;
    });
  return times;
}

const mean = (times: Float64Array) => times.reduce((sum, time) => sum + time, 0) / times.length;
const percent = (milliseconds: number) => `${((100 * milliseconds) / QUANTUM_MS).toFixed(2)} %`;

const large = withLimiter(
  withReturns(withGiving(withTracks(withTracks(plain, 'compressor', 0, 16), 'gate', 16, 8), 8), 3),
);
console.log(
  `Share of a quantum of ${QUANTUM} frames at 48 kHz; ${TRACKS} stereo tracks with ${BANDS} bands each, ${QUANTA} quanta in each of ${ROUNDS} rounds.\n`,
);
const engines = [plain, large].map(engineOf);
const all = engines.map((): number[] => []);
run(engines);
for (let round = 0; round < ROUNDS; round++) run(engines).forEach((times, e) => all[e].push(...times));
console.log(
  table([
    ['song', 'mean', 'p99', 'p99.9'],
    ...['equalizers alone', '16 compressors, 8 gates, 8 bands that give way, 3 reverbs, 1 limiter'].map((name, e) => [
      name,
      percent(mean(Float64Array.from(all[e]))),
      percent(percentile(all[e], 0.99)),
      percent(percentile(all[e], 0.999)),
    ]),
  ]),
);

const small: Song = { ...plain, tracks: plain.tracks.slice(0, 9) };
const rows: (string | number)[][] = [['one of', 'share of a core']];
const kinds: [string, Song, number, Song?][] = [
  ...(['compressor', 'gate', 'clipper', 'ducker', 'echo', 'limiter'] as const).map((kind): [string, Song, number] => [
    kind,
    withTracks(small, kind, 1, 8),
    8,
  ]),
  ['band that gives way', withGiving(small, 8), 8],
  ['reverb on a return', withReturns(small, 3), 3, withReturns(small, 3, false)],
];
for (const [name, song, count, without = small] of kinds) {
  const pair = [without, song].map(engineOf);
  run(pair);
  const costs = Array.from({ length: ROUNDS }, () => {
    const [without, withIt] = run(pair);
    return (mean(withIt) - mean(without)) / count;
  });
  rows.push([name, percent(percentile(costs, 0.5))]);
  pair.forEach((engine) => engine.release());
}
console.log(`\n${table(rows)}`);
