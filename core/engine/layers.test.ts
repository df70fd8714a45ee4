import fc from 'fast-check';
import FFT from 'fft.js';
import { seededRandom } from '../formats';
import {
  applyEdit,
  emptyEqualizer,
  emptySong,
  invertEdit,
  layerTrack,
  newBandSettings,
  newTrack,
  songSchema,
  type Song,
  type Track,
} from '../song';
import { compileSong } from './compile';
import { songKernels } from './song-kernels';
import { renderMix } from './render';
import type { SampleSource } from './source';

const RATE = 48000;
const LENGTH = 65536;
const impulse: SampleSource = {
  channels: 2,
  read: (frame, count, left, right) => {
    for (let n = 0; n < count; n++) left[n] = right[n] = frame + n === 30000 ? 1 : 0;
  },
};
const random = seededRandom(3);
const noise = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
const noisy: SampleSource = {
  channels: 1,
  read: (frame, count, left) => left.set(noise.subarray(frame, frame + count)),
};

const track = (changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 2, lengthFrames: LENGTH }, { id: 't', name: 'Stomp', ink: 2 }),
  ...changes,
});
const songOf = (track: Track): Song => ({ ...emptySong('Layers'), tracks: [track] });
let ids = 0;
const layered = (song: Song, cornersHz: number[]) => {
  const edit = layerTrack(song, 't', cornersHz, {
    groupId: 'g',
    trackIds: ['u', 'v', 'w', 'x', 'y'],
    newId: () => `id${ids++}`,
  })!;
  const next = applyEdit(song, edit);
  expect(songSchema.safeParse(next).error).toBeUndefined();
  expect(applyEdit(next, invertEdit(song, edit))).toEqual(song);
  return next;
};
function rendered(song: Song, source: SampleSource): Float64Array[] {
  const sides = [new Float64Array(LENGTH), new Float64Array(LENGTH)];
  const kernels = songKernels(song);
  for (const { left, right, frames, frame } of renderMix(compileSong(song), () => source, kernels)) {
    sides[0].set(left.subarray(0, frames), frame);
    sides[1].set(right.subarray(0, frames), frame);
  }
  return sides;
}

test('ranges add up to the original within 0.1 dB at every frequency up to 20 kHz, wherever they are split (seed 8)', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 40, max: 12000 }), {
        minLength: 1,
        maxLength: 3,
        comparator: (a, b) => Math.abs(Math.log2(a / b)) < 0.5,
      }),
      (corners) => {
        const [sum] = rendered(
          layered(
            songOf(track()),
            [...corners].sort((a, b) => a - b),
          ),
          impulse,
        );
        let worst = 0;
        const fft = new FFT(LENGTH);
        const out = fft.createComplexArray();
        fft.realTransform(out, Array.from(sum));
        for (let k = Math.ceil((20 * LENGTH) / RATE); k < (20000 * LENGTH) / RATE; k += 3)
          worst = Math.max(worst, Math.abs(20 * Math.log10(Math.hypot(out[2 * k], out[2 * k + 1]))));
        expect(worst).toBeLessThan(0.1);
      },
    ),
    { seed: 8, numRuns: 12 },
  );
});

test('copies add up to the original: what differs lies below −120 dBFS, chain, position, sends and level of the track in it', () => {
  const chain = [
    { ...emptyEqualizer('e'), bands: [{ ...newBandSettings('bell', 300), gainDb: -6, id: 'b', letter: 'A' }] },
  ];
  for (const strip of [
    track({ chain, gainDb: -4, polarityInverted: true }),
    track({ chain, channels: 1, pan: -0.4 }),
    track({ chain, pan: 0.7 }),
  ]) {
    const source = strip.channels === 1 ? noisy : { ...impulse };
    const before = rendered(songOf(strip), source);
    const after = rendered(layered(songOf(strip), []), source);
    const apart = before.map((side, i) =>
      side.reduce((most, value, n) => Math.max(most, Math.abs(value - after[i][n])), 0),
    );
    expect(Math.max(...apart)).toBeLessThan(1e-6);
  }
});

test('the layers are of one recording, stand together, and the group has what the track had', () => {
  const song = layered(songOf(track({ gainDb: -3, soloed: true, claims: [{ lowHz: 40, highHz: 90 }] })), [120, 2000]);
  expect(song.tracks.map(({ name }) => name)).toEqual([
    'Stomp, below 120 Hz',
    'Stomp, 120 Hz to 2 kHz',
    'Stomp, above 2 kHz',
  ]);
  expect(new Set(song.tracks.map(({ audioId }) => audioId)).size).toBe(1);
  expect(song.tracks.map(({ outputId, claims }) => [outputId, claims.length])).toEqual([
    ['g', 1],
    ['g', 0],
    ['g', 0],
  ]);
  expect(song.buses[0]).toMatchObject({ name: 'Stomp', gainDb: -3, soloed: true, outputId: 'master' });
});
