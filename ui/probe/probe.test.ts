import { emptySong, firstEqualizer, newTrack, type Song } from '@/core/song';
import { showCrosshair } from '../crosshair';
import { useListening } from '../session';
import { currentSong, useSelection, useSongStore } from '../song';
import { flipNearest, PROBE_GAIN_DB, PROBE_Q, probeHold, probeKey, useProbe } from './probe-store';

const song: Song = {
  ...emptySong('Test'),
  tracks: [newTrack({ audioId: '0'.repeat(64), channels: 1, lengthFrames: 9 }, { id: 'a', name: 'a', ink: 0 })],
};
const probe = () => useListening.getState().probe;
const marks = () => useProbe.getState().marks.a ?? [];
const bands = () => firstEqualizer(currentSong().tracks[0])!.bands;
const press = (key: string, more: Partial<KeyboardEvent> = {}) =>
  probeKey({ key, shiftKey: false, altKey: false, ctrlKey: false, metaKey: false, ...more } as KeyboardEvent);

beforeEach(() => {
  // What takes the focus afterwards is looked for in the page, and there is none here.
  globalThis.requestAnimationFrame = () => 0;
  useSongStore.getState().open('x', song, 0);
  useSelection.getState().chooseStrip('a');
  useProbe.setState({ gainDb: PROBE_GAIN_DB.start, q: PROBE_Q.start, lastHz: 400, marks: {} });
  showCrosshair(null);
});
afterEach(() => probeHold.end());

test('it begins where the pointer stands, or where it stood last, and follows the pointer alone', () => {
  probeHold.begin();
  expect(probe()).toMatchObject({ stripId: 'a', frequencyHz: 400, gainDb: 6, q: 8 });
  showCrosshair({ hz: 1234.56, clientY: 0, byPointer: true });
  expect(probe()!.frequencyHz).toBe(1235);
  // A handle that takes the focus does not move it.
  showCrosshair({ hz: 50, clientY: 0 });
  expect(probe()!.frequencyHz).toBe(1235);
  probeHold.end();
  expect(probe()).toBeNull();
  showCrosshair({ hz: 800, clientY: 0, byPointer: true });
  probeHold.begin();
  expect(probe()!.frequencyHz).toBe(800);
});

test('its gain and width stay within their bounds', () => {
  probeHold.begin();
  for (let i = 0; i < 20; i++) press('ArrowUp', { altKey: true });
  for (let i = 0; i < 20; i++) press('.', { altKey: true });
  expect(probe()).toMatchObject({ gainDb: PROBE_GAIN_DB.max, q: PROBE_Q.min });
  for (let i = 0; i < 20; i++) press('ArrowDown', { altKey: true });
  for (let i = 0; i < 20; i++) press(',', { altKey: true });
  expect(probe()).toMatchObject({ gainDb: PROBE_GAIN_DB.min, q: PROBE_Q.max });
});

test('marks are kept in order, once each; the nearest is flipped, with half the width, as one step', () => {
  probeHold.begin();
  for (const hz of [900, 300, 900, 2000]) {
    showCrosshair({ hz, clientY: 0, byPointer: true });
    press('m');
  }
  expect(marks()).toEqual([300, 900, 2000]);
  showCrosshair({ hz: 1000, clientY: 0, byPointer: true });
  press('f');
  expect(marks()).toEqual([300, 2000]);
  expect(probe()).toBeNull();
  expect(bands()).toMatchObject([{ type: 'bell', frequencyHz: 900, gainDb: -3, q: 4 }]);
  useSongStore.getState().undo();
  expect(bands()).toEqual([]);
});

test('Escape takes back the marks of this probe alone', () => {
  probeHold.begin();
  press('m');
  probeHold.end();
  probeHold.begin();
  showCrosshair({ hz: 5000, clientY: 0, byPointer: true });
  press('m');
  expect(press('Escape')).toBe(true);
  expect(marks()).toEqual([400]);
  expect(press('m')).toBe(false);
});

test('it ends when another strip is chosen, and its marks stay with their strip', () => {
  probeHold.begin();
  press('m');
  useSelection.getState().chooseStrip('master');
  expect(probe()).toBeNull();
  expect(marks()).toEqual([400]);
  showCrosshair({ hz: 900, clientY: 0, byPointer: true });
  expect(probe()).toBeNull();
});

test('without a mark, the place of the probe is flipped; without a probe it is said how to make one', () => {
  probeHold.begin();
  flipNearest();
  expect(bands()).toMatchObject([{ frequencyHz: 400 }]);
  flipNearest();
  expect(useSongStore.getState().notices.at(-1)?.text).toMatch(/no mark to flip/);
});
