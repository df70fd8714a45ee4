/** @jest-environment jsdom */
import { PLAIN_HEARING } from '@/core/engine';
import { emptySong, newTrack, type Song } from '@/core/song';
import { request } from '../server/request';
import { songOf } from '../song/live-song';
import { useSongStore } from '../song/song-store';
import { deskWith } from '../testing/open-desk';
import { followFrozen, freezeTracks, frozenState, heardFrozen, useFrozen } from './frozen';

jest.mock('../server/request');
const asked = jest.mocked(request);

const track = (id: string) =>
  newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 });
const song: Song = { ...emptySong('Test'), tracks: [track('a'), track('b')] };
const RENDER = { audioId: 'f'.repeat(64), channels: 1, lengthFrames: 48000 };
const stopped = { isWanted: false, isHere: () => false };

beforeEach(() => {
  jest.useFakeTimers();
  asked.mockReset();
  localStorage.clear();
});
afterEach(() => jest.useRealTimers());

/** A song on a desk of which a track is frozen, and rendered. */
async function frozenDesk() {
  asked.mockResolvedValue(RENDER);
  const desk = deskWith(song);
  followFrozen(desk);
  freezeTracks(desk, ['a'], true);
  expect(frozenState(useFrozen.of(desk), 'a')).toBe('waiting');
  await jest.advanceTimersByTimeAsync(2000);
  const heard = (hearing = PLAIN_HEARING, session = stopped) =>
    heardFrozen(desk, songOf(desk), hearing, session).song.tracks[0].audioId;
  return { desk, heard };
}

test('a frozen track is rendered at rest and played; what is changed plays live at once, and is rendered anew', async () => {
  const { desk, heard } = await frozenDesk();
  expect(frozenState(useFrozen.of(desk), 'a')).toBe('frozen');
  expect(heard()).toBe(RENDER.audioId);
  expect(asked).toHaveBeenCalledTimes(1);
  useSongStore.of(desk).edit({ kind: 'strip.set', stripId: 'a', changes: { gainDb: -6 } }, 'Level');
  expect(frozenState(useFrozen.of(desk), 'a')).toBe('frozen');
  useSongStore.of(desk).edit({ kind: 'strip.set', stripId: 'a', changes: { delayMs: 3 } }, 'Delay');
  expect(frozenState(useFrozen.of(desk), 'a')).toBe('waiting');
  expect(heard()).toBe(song.tracks[0].audioId);
  await jest.advanceTimersByTimeAsync(2000);
  expect(asked).toHaveBeenCalledTimes(2);
  expect(frozenState(useFrozen.of(desk), 'a')).toBe('frozen');
  desk.end();
});

test('before and after, and a key, run the chain; while the song plays a new render waits until its sound is here', async () => {
  const { desk, heard } = await frozenDesk();
  const live = song.tracks[0].audioId;
  expect(heard({ ...PLAIN_HEARING, without: { kind: 'mix' } })).toBe(live);
  expect(heard({ ...PLAIN_HEARING, without: { kind: 'strip', stripId: 'a' } })).toBe(live);
  expect(heard({ ...PLAIN_HEARING, without: { kind: 'strip', stripId: 'b' } })).toBe(RENDER.audioId);
  expect(heard({ ...PLAIN_HEARING, key: { stripId: 'a', processorId: 'p' } })).toBe(live);
  const playing = { isWanted: true, isHere: () => false };
  expect(heardFrozen(desk, songOf(desk), PLAIN_HEARING, playing).soon).toEqual([RENDER]);
  expect(heard(PLAIN_HEARING, playing)).toBe(live);
  expect(heard(PLAIN_HEARING, { isWanted: true, isHere: () => true })).toBe(RENDER.audioId);
  // Once it is played it goes on, whatever has come of it.
  expect(heard(PLAIN_HEARING, playing)).toBe(RENDER.audioId);
  desk.end();
});

test('a refusal is told and asked again when the track is frozen again; what is thawed is asked for anew', async () => {
  const desk = deskWith(song);
  followFrozen(desk);
  asked.mockRejectedValue(new Error('The disk is full.'));
  freezeTracks(desk, ['b'], true);
  await jest.advanceTimersByTimeAsync(5000);
  expect(asked).toHaveBeenCalledTimes(1);
  expect([frozenState(useFrozen.of(desk), 'b'), useFrozen.of(desk).failed]).toEqual([
    'failed',
    { b: 'The disk is full.' },
  ]);
  asked.mockResolvedValue(RENDER);
  for (let times = 2; times <= 3; times++) {
    freezeTracks(desk, ['b'], false);
    expect(frozenState(useFrozen.of(desk), 'b')).toBe('live');
    freezeTracks(desk, ['b'], true);
    await jest.advanceTimersByTimeAsync(2000);
    expect(asked).toHaveBeenCalledTimes(times);
    expect(frozenState(useFrozen.of(desk), 'b')).toBe('frozen');
  }
  desk.end();
});

test('which tracks are frozen is known when the song is opened again; what cannot be read is none', async () => {
  const { desk } = await frozenDesk();
  desk.end();
  const next = deskWith(song);
  followFrozen(next);
  expect(useFrozen.of(next).chosen).toEqual(['a']);
  next.end();
  for (const stored of ['{', '{"a":1}', '[1,2]']) {
    localStorage.setItem(`orvid.frozen.${next.songId}`, stored);
    const other = deskWith(song);
    followFrozen(other);
    expect(useFrozen.of(other).chosen).toEqual([]);
    other.end();
  }
});
