import { BAND_DEFAULTS, emptySong, findStrip, firstEqualizer, newTrack, type Song } from '@/core/song';
import { copyOf, putCopied } from './equalizer-edits';
import { chosenStrips, togetherWith, useSelection } from './selection';
import type { Desk } from '../desk/desk';
import { deskWith } from '../testing/open-desk';
import { songOf } from './live-song';
import { useSongStore } from './song-store';
import { setStrips, stepStrips } from './strip-edits';

const ids = ['a', 'b', 'c', 'd'];
const song: Song = {
  ...emptySong('Test'),
  tracks: ids.map((id, i) => ({
    ...newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id, name: id, ink: i }),
    gainDb: -i,
  })),
};
let desk: Desk;
const now = () => songOf(desk);
const track = (id: string) => now().tracks.find((track) => track.id === id)!;
const bands = (id: string) => firstEqualizer(findStrip(now(), id)!)!.bands;
const select = () => useSelection.of(desk);

beforeEach(() => {
  desk = deskWith(song);
  select().chooseStrip('a');
});

test('tracks are taken in and out one by one, and as a stretch of lanes', () => {
  select().toggleStrip('c');
  expect(chosenStrips(desk).map(({ id }) => id)).toEqual(['a', 'c']);
  select().toggleStrip('c');
  expect(chosenStrips(desk).map(({ id }) => id)).toEqual(['a']);
  select().extendTo('c', ids);
  expect(togetherWith(desk, 'b')).toEqual(['a', 'b', 'c']);
  expect(togetherWith(desk, 'd')).toEqual(['d']);
  // The one on the bench is taken out: the next takes its place there.
  select().toggleStrip('a');
  expect(chosenStrips(desk).map(({ id }) => id)).toEqual(['b', 'c']);
  select().chooseStrip('d');
  expect(chosenStrips(desk).map(({ id }) => id)).toEqual(['d']);
});

test('what is set is set on all of them, and what is stepped is stepped from where each stands, in one step of undo', () => {
  select().extendTo('c', ids);
  setStrips(desk, 'b', { muted: true }, 'Mute');
  expect(ids.map((id) => track(id).muted)).toEqual([true, true, true, false]);
  stepStrips(desk, 'a', ({ gainDb }) => ({ gainDb: gainDb - 2 }), 'Level');
  expect(ids.map((id) => track(id).gainDb)).toEqual([-2, -3, -4, -3]);
  useSongStore.of(desk).undo();
  expect(ids.map((id) => track(id).gainDb)).toEqual([-0, -1, -2, -3].map((db) => db));
  // A track beside the choice is set alone; the master takes what it has.
  setStrips(desk, 'd', { muted: true }, 'Mute');
  expect(track('a').muted).toBe(true);
  setStrips(desk, 'master', { gainDb: -1, muted: true }, 'Level');
  expect(now().master.gainDb).toBe(-1);
});

test('a copied band is added with an identity of its own; a copied equalizer takes the place of another', () => {
  const band = { ...BAND_DEFAULTS, id: 'x', letter: 'C', type: 'bell', frequencyHz: 400, gainDb: -3, q: 2 } as const;
  const shelf = { ...BAND_DEFAULTS, id: 'y', letter: 'D', type: 'high-shelf', frequencyHz: 8000, gainDb: 2 } as const;
  const equalizer = { ...firstEqualizer(track('a'))!, outputGainDb: 1, bands: [band, shelf] };
  putCopied(desk, ['b', 'c'], copyOf(equalizer, 'x'));
  putCopied(desk, ['b', 'c'], copyOf(equalizer, 'x'));
  for (const id of ['b', 'c']) {
    expect(bands(id).map(({ letter }) => letter)).toEqual(['A', 'B']);
    expect(bands(id)[0]).toMatchObject({ type: 'bell', frequencyHz: 400, gainDb: -3, q: 2 });
  }
  expect(new Set([...bands('b'), ...bands('c')].map(({ id }) => id)).size).toBe(4);
  putCopied(desk, ['b'], copyOf(equalizer));
  expect(bands('b').map(({ type }) => type)).toEqual(['bell', 'high-shelf']);
  expect(firstEqualizer(track('b'))!.outputGainDb).toBe(1);
  expect(() => putCopied(desk, ['b'], { kind: 'band', text: '{}' })).toThrow('What was copied: format');
});
