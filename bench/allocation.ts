import { compileSong, Engine } from '@/core/engine';
import { emptyEqualizer, emptySong, newBandSettings, newTrack, type Track } from '@/core/song';

/**
 * Bytes that the engine allocates for each quantum of 128 frames once its code is warm: the least of five rounds, since what else goes
 * on in the process is in some of them only. The smallest object would be 16 bytes.
 */
const QUANTA = 20000;
const samples = Float64Array.from({ length: 4096 }, (_, n) => Math.sin(n / 7));
const source = {
  channels: 1 as const,
  read: (frame: number, count: number, left: Float64Array) => {
    for (let n = 0; n < count; n++) left[n] = samples[(frame + n) & 4095];
  },
};
const track = (id: string): Track => {
  const bands = [{ ...newBandSettings('bell', 500), gainDb: 6, id: 'b', letter: 'A' }];
  const plain = newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 1e6 }, { id, name: id, ink: 0 });
  return { ...plain, chain: [{ ...emptyEqualizer(`${id}-e`), bands }] };
};
const engine = new Engine(48000, () => source);
engine.setSong(compileSong({ ...emptySong('Allocation'), tracks: [track('a'), track('b')] }));
const [left, right] = [new Float32Array(128), new Float32Array(128)];
const run = () => {
  for (let i = 0; i < QUANTA; i++) engine.process(i * 128, 128, left, right);
};
for (let i = 0; i < 3; i++) run();
const growths = Array.from({ length: 5 }, () => {
  const before = process.memoryUsage().heapUsed;
  run();
  return Math.max(0, process.memoryUsage().heapUsed - before);
});
console.log(JSON.stringify({ bytesPerQuantum: Math.min(...growths) / QUANTA }));
