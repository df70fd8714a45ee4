import { seededRandom } from '../formats';
import {
  emptyEqualizer,
  emptySong,
  newBandSettings,
  newBus,
  newTrack,
  type Band,
  type Song,
  type Track,
} from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { songKernels } from './song-kernels';
import { Player } from './player';
import { renderMix } from './render';

const RATE = 48000;
const LENGTH = 60000;
const random = seededRandom(2);
const noise = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
const source = {
  channels: 1 as const,
  read: (frame: number, count: number, left: Float64Array) => {
    for (let n = 0; n < count; n++) left[n] = noise[frame + n] ?? 0;
  },
};

const band = (changes: Partial<Band>): Band => ({ ...newBandSettings('bell', 900), id: 'b', letter: 'A', ...changes });
const linear = (id: string, bands: Band[] = []) => ({ ...emptyEqualizer(id), phase: 'linear' as const, bands });
const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  ...changes,
});
const song = (changes: Partial<Song>): Song => ({ ...emptySong('Late'), ...changes });
const kernelsOf = (song: Song) => songKernels(song);

function rendered(song: Song): Float64Array {
  const out: number[] = [];
  for (const block of renderMix(compileSong(song), () => source, kernelsOf(song)))
    out.push(...block.left.subarray(0, block.frames));
  return Float64Array.from(out);
}
const apart = (a: Float64Array, b: Float64Array) =>
  a.reduce((most, value, n) => Math.max(most, Math.abs(value - b[n])), 0);

test('an equalizer of linear phase without bands changes nothing, wherever it lies; all ways meet', () => {
  const routed = (on: boolean): Song => {
    const chain = (id: string) => (on ? [linear(id)] : []);
    return song({
      tracks: [
        track('a', { chain: chain('ae') }),
        track('b', { gainDb: -3, sends: [{ busId: 'y', gainDb: -6, tap: 'before-fader', enabled: true }] }),
        track('c', {
          outputId: 'x',
          chain: chain('ce'),
          sends: [{ busId: 'y', gainDb: -2, tap: 'after-fader', enabled: true }],
        }),
        track('d', { outputId: 'x' }),
      ],
      buses: [
        { ...newBus({ id: 'x', name: 'x', ink: 0 }), chain: chain('xe'), outputId: 'y' },
        { ...newBus({ id: 'y', name: 'y', ink: 0 }), chain: chain('ye'), sends: [] },
      ],
      master: { id: 'master', gainDb: -2, chain: chain('me') },
    });
  };
  const plain = rendered(routed(false));
  expect(apart(rendered(routed(true)), plain)).toBeLessThan(1e-9);
  expect(Math.max(...plain)).toBeGreaterThan(0.5);
});

test('a linear bell lifts without moving: its render lies in time with that of minimum phase', () => {
  const boosted = (phase: 'linear' | 'minimum') =>
    rendered(song({ tracks: [track('a', { chain: [{ ...linear('e', [band({ gainDb: 6, q: 0.5 })]), phase }] })] }));
  const [late, early] = [boosted('linear'), boosted('minimum')];
  const correlation = (shift: number) => {
    let sum = 0;
    for (let n = 1000; n < LENGTH - 1000; n++) sum += late[n] * early[n + shift];
    return sum;
  };
  const shifts = [-40, -10, -3, 0, 3, 10, 40];
  expect(shifts[shifts.map(correlation).indexOf(Math.max(...shifts.map(correlation)))]).toBe(0);
});

function playing(song: Song): { player: Player; hear: (frames: number) => Float32Array } {
  const engine = new Engine(RATE, () => source);
  const player = new Player(engine);
  for (const { kernelId, kernel } of kernelsOf(song)) engine.addKernel(kernelId, kernel);
  player.setSong(compileSong(song));
  return {
    player,
    hear: (frames) => {
      const out = new Float32Array(frames);
      for (let at = 0; at < frames; at += 128) {
        const count = Math.min(128, frames - at);
        player.process(count, out.subarray(at, at + count), new Float32Array(count));
      }
      return out;
    },
  };
}

const flat = song({ tracks: [track('a', { chain: [linear('e')], pan: -1 })] });

test('a start, a seek and a loop: what is heard is what lies at the position, late or not', () => {
  const { player, hear } = playing(flat);
  const check = (from: Float32Array, wanted: number) => {
    for (let n = 1000; n < from.length; n += 37) expect(from[n]).toBeCloseTo(noise[wanted + n], 6);
  };
  player.seek(5000);
  player.play();
  // Eight blocks in the time of one: the silence before the first sound is an eighth of the latency.
  const first = hear(4096);
  const begins = first.findIndex((value) => value !== 0);
  expect(begins).toBeGreaterThan(900);
  expect(begins).toBeLessThan(1500);
  const position = player.position;
  check(hear(2048), position);
  player.seek(20000);
  hear(4096);
  check(hear(2048), player.position - 2048);
  player.setLoop({ start: 30000, end: 36000 });
  player.seek(30000);
  hear(3000);
  const positions: number[] = [];
  for (let i = 0; i < 150; i++) {
    hear(128);
    positions.push(player.position);
  }
  expect(Math.min(...positions)).toBeGreaterThanOrEqual(30000);
  expect(Math.max(...positions)).toBeLessThan(36000);
  expect(new Set(positions.map((at) => Math.floor(at / 1000))).size).toBe(6);
});

test('a stop is heard at once, and a start goes on where it was', () => {
  const { player, hear } = playing(flat);
  player.seek(8000);
  player.play();
  hear(8192);
  player.stop();
  const end = hear(1024);
  expect(Math.max(...end.subarray(400).map(Math.abs))).toBe(0);
  expect(player.isResting).toBe(true);
  const stoppedAt = player.position;
  expect(Math.abs(stoppedAt - (8000 + 8192 - 1088))).toBeLessThan(600);
  player.play();
  hear(4096);
  expect(player.position).toBeGreaterThan(stoppedAt + 2000);
});

test('a song that shifts the latency is taken in silence, and played on from the same place', () => {
  const { player, hear } = playing(song({ tracks: [track('a', { pan: -1 })] }));
  player.seek(10000);
  player.play();
  hear(2048);
  const engineSong = compileSong(flat);
  const [kernel] = kernelsOf(flat);
  // The player's engine is reached as the audio thread reaches it: kernels first, then the song.
  (player as unknown as { engine: Engine }).engine.addKernel(kernel.kernelId, kernel.kernel);
  const before = player.position;
  player.setSong(engineSong);
  hear(4096);
  const after = player.position;
  expect(after).toBeGreaterThan(before + 1500);
  expect(after).toBeLessThan(before + 4096);
  const heard = hear(1024);
  for (let n = 0; n < 1024; n += 31) expect(heard[n]).toBeCloseTo(noise[after + n], 6);
});
