import {
  applyEdit,
  bandsOf,
  emptyEqualizer,
  emptySong,
  layerTrack,
  MASTER_ID,
  newBandSettings,
  newTrack,
  type Song,
} from '../song';
import { hasEnds, partOf, withoutEnds } from './parts';

const highPass = { ...newBandSettings('high-pass', 40), id: 'own', letter: 'Z' };
const track = {
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 2, lengthFrames: 48000 }, { id: 't', name: 'Stomp', ink: 2 }),
  chain: [{ ...emptyEqualizer('e'), bands: [highPass] }],
};
const song: Song = { ...emptySong('Parts'), tracks: [track] };
let ids = 0;
const layered = applyEdit(
  song,
  layerTrack(song, 't', [120, 2000], { groupId: 'g', trackIds: ['u', 'v'], newId: () => `id${ids++}` })!,
);
const bandsIn = (part: Song) => [...part.tracks, ...part.buses, part.master].flatMap((strip) => bandsOf(strip));

test('pass filters are opened; the crossovers of layers stay, since all of them together take nothing away', () => {
  expect(hasEnds(song)).toBe(true);
  expect(bandsIn(withoutEnds(song))).toEqual([]);
  // The track's own end is its group's now, and the five filters of three layers are crossovers.
  expect(bandsIn(layered)).toHaveLength(6);
  expect(bandsIn(withoutEnds(layered))).toHaveLength(5);
  for (const id of ['t', 'u', 'v']) expect(hasEnds(partOf(layered, id), layered)).toBe(false);
  expect(hasEnds(partOf(layered, 'g'), layered)).toBe(true);
  expect(hasEnds(partOf(layered, MASTER_ID), layered)).toBe(true);
});

test('an end of a layer that is no crossover is one all the same', () => {
  const [layer] = layered.tracks;
  const own = { ...layer, chain: [...layer.chain, { ...emptyEqualizer('f'), bands: [{ ...highPass, id: 'more' }] }] };
  const more: Song = { ...layered, tracks: [own, ...layered.tracks.slice(1)] };
  expect(hasEnds(partOf(more, 't'), more)).toBe(true);
});
