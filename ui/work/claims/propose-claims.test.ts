import { emptySong, newBus, newTrack } from '@/core/song';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { proposedClaim } from '../../window/sound/mix';
import { deskWith } from '../../window/testing/open-desk';
import { claimless, proposeClaims } from './propose-claims';

jest.mock('../../window/sound/mix');
const proposed = jest.mocked(proposedClaim);

const track = (id: string) =>
  newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: `Track ${id}`, ink: 0 });
const group = newBus({ id: 'g', name: 'Drums', ink: 0 });
const song = {
  ...emptySong('Claims'),
  tracks: [{ ...track('a'), part: 'cello' }, { ...track('b'), outputId: 'g' }, track('c')],
  buses: [group],
};
const claimsOf = (desk: ReturnType<typeof deskWith>) =>
  [...songOf(desk).tracks, ...songOf(desk).buses].map(({ id, claims }) => [id, ...claims.map(({ lowHz }) => lowHz)]);

test('tracks and groups are asked by their part, or their name, and what is proposed is one step of undo', async () => {
  const desk = deskWith(song);
  expect(claimless(song)).toEqual(['a', 'b', 'c', 'g']);
  proposed.mockImplementation((_, id) => Promise.resolve(id === 'c' ? null : { lowHz: 100, highHz: 400 }));
  await proposeClaims(desk, claimless(song));
  expect(proposed.mock.calls.map(([, id, part]) => `${id} ${part}`)).toEqual([
    'a cello',
    'b Track b',
    'c Track c',
    'g Drums',
  ]);
  expect(claimsOf(desk)).toEqual([['a', 100], ['b', 100], ['c'], ['g', 100]]);
  useSongStore.of(desk).undo();
  expect(songOf(desk)).toEqual(song);
});

test('what somebody claims or takes out while it is worked out stays as it is', async () => {
  const desk = deskWith(song);
  const { edit } = useSongStore.of(desk);
  proposed.mockImplementation((_, id) => {
    if (id === 'b') {
      edit({ kind: 'strip.set', stripId: 'a', changes: { claims: [{ lowHz: 900, highHz: 2000 }] } }, 'Claim');
      edit({ kind: 'track.remove', trackId: 'c' }, 'Remove');
    }
    return Promise.resolve({ lowHz: 100, highHz: 400 });
  });
  await proposeClaims(desk, ['a', 'b', 'c']);
  expect(claimsOf(desk)).toEqual([['a', 900], ['b', 100], ['g']]);
});
