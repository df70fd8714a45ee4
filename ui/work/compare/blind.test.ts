import { firstEqualizer, BAND_DEFAULTS, emptySong, newTrack, type Song } from '@/core/song';
import { useListening } from '../../window/sound/listening';
import type { Desk } from '../../window/desk/desk';
import { deskWith } from '../../window/testing/open-desk';
import { useSongStore } from '../../window/song/song-store';
import { useSelection } from '../../window/song/selection';
import { chosenSide, useBlind } from './blind-store';
import { songOf } from '../../window/song/live-song';

const band = { ...BAND_DEFAULTS, id: 'b', letter: 'A', type: 'bell', frequencyHz: 500, gainDb: 6 } as const;
const track = newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id: 'a', name: 'a', ink: 0 });
const song: Song = {
  ...emptySong('Test'),
  tracks: [{ ...track, chain: [{ ...firstEqualizer(track)!, bands: [band] }] }],
};
let desk: Desk;
const blind = () => useBlind.of(desk);
const heard = () => useListening.of(desk).test;
const equalizer = () => firstEqualizer(songOf(desk).tracks[0])!;

beforeEach(() => {
  desk = deskWith(song);
  useSelection.of(desk).chooseStrip('a');
});

/** Goes through all trials, choosing by what is heard. */
function choose(isWanted: (isBefore: boolean) => boolean): void {
  blind().start();
  while (blind().stage === 'running') {
    blind().hear(1);
    const firstIsBefore = heard()!.without !== null || heard()!.draftId !== null;
    blind().prefer(isWanted(firstIsBefore) ? 1 : 2);
  }
}

test('each trial has both sides, in an order of its own', () => {
  blind().open({ kind: 'scope', scope: 'mix' });
  blind().setTrials(16);
  blind().start();
  blind().hear(1);
  const first = heard()!.without;
  blind().hear(2);
  expect([first, heard()!.without].filter((scope) => scope === null)).toHaveLength(1);
  // 1 in 32768 that a fair coin does not show both in 16 throws.
  expect(new Set(blind().firsts).size).toBe(2);
  blind().end(false);
  expect(heard()).toBeNull();
});

test('the trials are one to sixteen whole ones', () => {
  for (const [asked, trials] of [
    [0, 1],
    [7.4, 7],
    [99, 16],
  ]) {
    blind().setTrials(asked);
    expect(blind().trials).toBe(trials);
  }
});

test.each([
  ['mix', () => expect(equalizer().enabled).toBe(false)],
  ['track', () => expect(equalizer().enabled).toBe(false)],
  ['band', () => expect(equalizer().bands[0].enabled).toBe(false)],
] as const)('before is chosen for the %s, and kept, as one step of undo', (scope, check) => {
  useListening.of(desk).setScope(scope);
  blind().open({ kind: 'scope', scope });
  blind().setTrials(5);
  choose((isBefore) => isBefore);
  expect(blind().answers).toEqual(Array(5).fill('other'));
  blind().end(true);
  check();
  useSongStore.of(desk).undo();
  expect(songOf(desk)).toEqual(song);
});

test('where after is chosen, or neither, nothing changes', () => {
  blind().open({ kind: 'scope', scope: 'mix' });
  blind().setTrials(3);
  choose((isBefore) => !isBefore);
  blind().end(true);
  expect(songOf(desk)).toEqual(song);
  expect(chosenSide(['now', 'other'])).toBeNull();
});

test('a draft that is chosen is taken', () => {
  useSongStore.of(desk).edit({ kind: 'draft.keep', draftId: 'd', name: 'Plain' }, 'Keep');
  useSongStore.of(desk).edit({ kind: 'strip.set', stripId: 'a', changes: { gainDb: 5 } }, 'Level');
  blind().open({ kind: 'draft', draftId: 'd' });
  blind().setTrials(2);
  choose((isDraft) => isDraft);
  blind().end(true);
  expect(songOf(desk).tracks[0].gainDb).toBe(0);
});
