import { compileSong } from '../engine';
import { leftOutText, tracksLeftOut } from './left-out';
import { emptySong, newBus, newTrack } from './model';
import type { Song, Track } from './schema';

const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id, name: id, ink: 0 }),
  ...changes,
});
const song = (tracks: Track[], buses: Song['buses'] = []): Song => ({ ...emptySong('Test'), tracks, buses });

test('nothing is missing while nothing is muted or soloed', () => {
  expect(leftOutText(song([track('a'), track('b')]))).toBeNull();
});

test('what is muted, alone or with its group, and what a solo leaves out is named', () => {
  const group = { ...newBus({ id: 'x', name: 'x', ink: 0 }), muted: true };
  expect(leftOutText(song([track('a', { muted: true }), track('b', { outputId: 'x' }), track('c')], [group]))).toBe(
    'Not in the mix: a, b (muted).',
  );
  expect(leftOutText(song([track('a', { soloed: true }), track('b'), track('c', { muted: true })]))).toBe(
    'Not in the mix: c (muted); b (others are soloed).',
  );
  const many = Array.from({ length: 9 }, (_, i) => track(String(i), { muted: true }));
  expect(leftOutText(song(many))).toBe('Not in the mix: 0, 1, 2, 3, 4, 5 and 3 more (muted).');
});

test('what is said to be heard is what the engine lets through', () => {
  const soloed = { ...newBus({ id: 'x', name: 'x', ink: 0 }), soloed: true };
  const tune = song([track('a', { outputId: 'x' }), track('b'), track('c', { outputId: 'x', muted: true })], [soloed]);
  const { muted, notSoloed } = tracksLeftOut(tune);
  const out = [...muted, ...notSoloed].map(({ id }) => id).sort();
  expect(out).toEqual(compileSong(tune).tracks.flatMap(({ id, audible }) => (audible === 0 ? [id] : [])));
});
