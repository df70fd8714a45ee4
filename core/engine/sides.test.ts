import { seededRandom } from '../formats';
import { emptyEqualizer, emptySong, newBandSettings, newTrack, type Song, type Track } from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { renderMix } from './render';
import type { SampleSource } from './source';

const LENGTH = 9600;
const random = seededRandom(11);
const mid = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
const side = Float64Array.from({ length: LENGTH }, () => random() - 0.5);
const source: SampleSource = {
  channels: 2,
  read: (frame, count, left, right) => {
    for (let n = 0; n < count; n++) {
      left[n] = (mid[frame + n] ?? 0) + (side[frame + n] ?? 0);
      right[n] = (mid[frame + n] ?? 0) - (side[frame + n] ?? 0);
    }
  },
};
const songOf = (changes: Partial<Track>): Song => ({
  ...emptySong('Sides'),
  tracks: [
    {
      ...newTrack({ audioId: 'ab'.repeat(32), channels: 2, lengthFrames: LENGTH }, { id: 't', name: 't', ink: 0 }),
      ...changes,
    },
  ],
});
function rendered(song: Song): { mid: Float64Array; side: Float64Array } {
  const out = { mid: new Float64Array(LENGTH), side: new Float64Array(LENGTH) };
  for (const { left, right, frames, frame } of renderMix(compileSong(song), () => source))
    for (let n = 0; n < frames; n++) {
      out.mid[frame + n] = (left[n] + right[n]) / 2;
      out.side[frame + n] = (left[n] - right[n]) / 2;
    }
  return out;
}
const apart = (first: Float64Array, second: Float64Array, gainDb: number) =>
  first.reduce((most, value, n) => Math.max(most, Math.abs(value - 10 ** (gainDb / 20) * second[n])), 0);

test('what both sides share and what they differ in have a level each, behind the chain', () => {
  for (const [midDb, sideDb] of [
    [-6, 0],
    [0, -60],
    [3, -4.5],
  ]) {
    const heard = rendered(songOf({ midDb, sideDb }));
    expect(apart(heard.mid, mid, midDb)).toBeLessThan(1e-12);
    expect(apart(heard.side, side, sideDb)).toBeLessThan(1e-12);
  }
  const chain = [
    { ...emptyEqualizer('e'), bands: [{ ...newBandSettings('bell', 900), gainDb: 7, id: 'b', letter: 'A' }] },
  ];
  const [plain, lowered] = [songOf({ chain }), songOf({ chain, midDb: -9 })].map(rendered);
  expect(apart(lowered.mid, plain.mid, -9)).toBeLessThan(1e-12);
  expect(apart(lowered.side, plain.side, 0)).toBeLessThan(1e-12);
});

test('it plays as it is rendered, and a mono track has neither', () => {
  const song = songOf({ midDb: -5, sideDb: 2, pan: 0.2 });
  const engine = new Engine(48000, () => source);
  engine.setSong(compileSong(song));
  const heard = rendered(song);
  const [left, right] = [new Float64Array(128), new Float64Array(128)];
  let most = 0;
  for (let frame = 0; frame < LENGTH; frame += 128) {
    engine.process(frame, 128, left, right);
    for (let n = 0; n < 128; n++) most = Math.max(most, Math.abs((left[n] + right[n]) / 2 - heard.mid[frame + n]));
  }
  engine.release();
  expect(most).toBeLessThan(1e-9);
  const [track] = songOf({ midDb: -20 }).tracks;
  const mono = { ...songOf({}), tracks: [{ ...track, channels: 1 as const }] };
  expect(compileSong(mono).tracks[0].chain.stages).toEqual([]);
});
