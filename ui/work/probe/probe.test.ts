import { emptySong, firstEqualizer, newTrack, type Song } from '@/core/song';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useListening } from '../../window/sound/listening';
import type { Desk } from '../../window/desk/desk';
import { noticesOf } from '../../window/notices/notices';
import { deskWith } from '../../window/testing/open-desk';
import { useSongStore } from '../../window/song/song-store';
import { useSelection } from '../../window/song/selection';
import { flipNearest, PROBE_GAIN_DB, PROBE_Q, probeHold, probeKey, useProbe } from './probe-store';
import { songOf } from '../../window/song/live-song';

const song: Song = {
  ...emptySong('Test'),
  tracks: [newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id: 'a', name: 'a', ink: 0 })],
};
let desk: Desk;
const probe = () => useListening.of(desk).probe;
const marks = () => useProbe.of(desk).marks.a ?? [];
const bands = () => firstEqualizer(songOf(desk).tracks[0])!.bands;
const press = (key: string, more: Partial<KeyboardEvent> = {}) =>
  probeKey(desk, { key, shiftKey: false, altKey: false, ctrlKey: false, metaKey: false, ...more } as KeyboardEvent);

beforeEach(() => {
  desk = deskWith(song);
  useSelection.of(desk).chooseStrip('a');
  showCrosshair(desk, null);
});
afterEach(() => probeHold(desk).end());

test('it begins where the pointer stands, or where it stood last, and follows the pointer alone', () => {
  probeHold(desk).begin();
  expect(probe()).toMatchObject({ stripId: 'a', frequencyHz: 400, gainDb: 6, q: 8 });
  showCrosshair(desk, { hz: 1234.56, clientY: 0, byPointer: true });
  expect(probe()!.frequencyHz).toBe(1235);
  // A handle that takes the focus does not move it.
  showCrosshair(desk, { hz: 50, clientY: 0 });
  expect(probe()!.frequencyHz).toBe(1235);
  probeHold(desk).end();
  expect(probe()).toBeNull();
  showCrosshair(desk, { hz: 800, clientY: 0, byPointer: true });
  probeHold(desk).begin();
  expect(probe()!.frequencyHz).toBe(800);
});

test('its gain and width stay within their bounds', () => {
  probeHold(desk).begin();
  for (let i = 0; i < 20; i++) press('ArrowUp', { altKey: true });
  for (let i = 0; i < 20; i++) press('.', { altKey: true });
  expect(probe()).toMatchObject({ gainDb: PROBE_GAIN_DB.max, q: PROBE_Q.min });
  for (let i = 0; i < 20; i++) press('ArrowDown', { altKey: true });
  for (let i = 0; i < 20; i++) press(',', { altKey: true });
  expect(probe()).toMatchObject({ gainDb: PROBE_GAIN_DB.min, q: PROBE_Q.max });
});

test('marks are kept in order, once each; the nearest is flipped, with half the width, as one step', () => {
  probeHold(desk).begin();
  for (const hz of [900, 300, 900, 2000]) {
    showCrosshair(desk, { hz, clientY: 0, byPointer: true });
    press('m');
  }
  expect(marks()).toEqual([300, 900, 2000]);
  showCrosshair(desk, { hz: 1000, clientY: 0, byPointer: true });
  press('f');
  expect(marks()).toEqual([300, 2000]);
  expect(probe()).toBeNull();
  expect(bands()).toMatchObject([{ type: 'bell', frequencyHz: 900, gainDb: -3, q: 4 }]);
  useSongStore.of(desk).undo();
  expect(bands()).toEqual([]);
});

test('Escape takes back the marks of this probe alone', () => {
  probeHold(desk).begin();
  press('m');
  probeHold(desk).end();
  probeHold(desk).begin();
  showCrosshair(desk, { hz: 5000, clientY: 0, byPointer: true });
  press('m');
  expect(press('Escape')).toBe(true);
  expect(marks()).toEqual([400]);
  expect(press('m')).toBe(false);
});

test('it ends when another strip is chosen, and its marks stay with their strip', () => {
  probeHold(desk).begin();
  press('m');
  useSelection.of(desk).chooseStrip('master');
  expect(probe()).toBeNull();
  expect(marks()).toEqual([400]);
  showCrosshair(desk, { hz: 900, clientY: 0, byPointer: true });
  expect(probe()).toBeNull();
});

test('without a mark, the place of the probe is flipped; without a probe it is said how to make one', () => {
  probeHold(desk).begin();
  flipNearest(desk);
  expect(bands()).toMatchObject([{ frequencyHz: 400 }]);
  flipNearest(desk);
  expect(noticesOf(desk).visibleToasts[0]?.content.text).toMatch(/no mark to flip/);
});
