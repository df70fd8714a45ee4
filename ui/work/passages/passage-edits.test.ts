import { plainGrid } from '@/core/grid';
import { newPassage } from '@/core/passages';
import { emptySong, MASTER_ID, newTrack, type Song } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { noticesOf } from '../../window/notices/notices';
import { documentOf } from '../../window/song/live-song';
import { useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import { soundOf } from '../../window/sound/audio-state';
import { deskWith } from '../../window/testing/open-desk';
import { snappedTime, steppedTime, useSnap } from '../../window/view/snap';
import { evenedByDb, evening } from './even-out';
import {
  markPassage,
  movedPassage,
  passageById,
  passageOfBarBefore,
  pastePassage,
  repeatPassage,
  soloPassage,
  splitPassage,
  togglePassage,
  toggleRecording,
  usePassageWork,
} from './passage-edits';

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

function opened(changes: Partial<Song> = {}): { desk: Desk; goTo: (seconds: number) => void } {
  const track = newTrack(
    { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 960000 },
    { id: 't', name: 't', ink: 0 },
  );
  const parts = [
    { name: 'Verse', startSeconds: 0 },
    { name: 'Refrain', startSeconds: 8 },
  ];
  const desk = deskWith({ ...emptySong('Test'), tracks: [track], parts, grid: plainGrid(120), ...changes });
  const state = { position: 0, isPlaying: false };
  const session = { state, heardFrame: () => state.position, seek: (frame: number) => (state.position = frame) };
  soundOf(desk).session = session as unknown as ReturnType<typeof soundOf>['session'];
  return { desk, goTo: (seconds) => void (state.position = 48000 * seconds) };
}
const said = (desk: Desk) =>
  noticesOf(desk)
    .visibleToasts.map(({ content }) => content.text)
    .join('\n');
const times = (desk: Desk) =>
  documentOf(desk).passages.map(({ startSeconds, endSeconds }) => [startSeconds, endSeconds]);

test('a passage is marked by two presses, sticks to beats, and is open then; two presses at one place say what is missing', () => {
  const { desk, goTo } = opened();
  goTo(3.1);
  markPassage(desk);
  goTo(1.05);
  markPassage(desk);
  expect(times(desk)).toEqual([[1, 3]]);
  expect(useOpenPassage.of(desk).passageId).toBe(documentOf(desk).passages[0].id);
  markPassage(desk);
  markPassage(desk);
  expect(said(desk)).toContain('needs some length');
  expect(times(desk)).toHaveLength(1);
  desk.end();
});

test('the bar before a part; without bars it says what to do first', () => {
  const { desk, goTo } = opened();
  goTo(9);
  passageOfBarBefore(desk);
  expect(times(desk)).toEqual([[6, 8]]);
  expect(documentOf(desk).passages[0].name).toBe('Before Refrain');
  desk.end();
  const bare = opened({ grid: null });
  bare.goTo(9);
  passageOfBarBefore(bare.desk);
  expect(said(bare.desk)).toContain('where the bars lie');
  expect(times(bare.desk)).toEqual([]);
  bare.desk.end();
});

test('what there is nothing for is said, and changes nothing', () => {
  const passage = newPassage('p', 'x', 2, 4);
  const { desk, goTo } = opened({ passages: [passage] });
  goTo(10);
  togglePassage(desk);
  expect(said(desk)).toContain('There is no passage here');
  toggleRecording(desk);
  expect(said(desk)).toContain('Open a passage first');
  repeatPassage(desk, passage);
  expect(said(desk)).toContain('no other part of the same name');
  splitPassage(desk, passage);
  expect(said(desk)).toContain('Put the playhead into the passage');
  pastePassage(desk);
  expect(documentOf(desk).passages).toEqual([passage]);
  desk.end();
});

test('opening goes into the passage where nothing plays; alone puts the others off, and on again', () => {
  const [first, second] = [newPassage('p', 'x', 2, 4), newPassage('q', 'y', 6, 7)];
  const { desk } = opened({ passages: [first, second] });
  usePassageWork.of(desk).choose('q');
  togglePassage(desk);
  expect(soundOf(desk).session!.state.position).toBe(6 * 48000);
  togglePassage(desk);
  expect(useOpenPassage.of(desk).passageId).toBeNull();
  soloPassage(desk, first);
  expect(documentOf(desk).passages.map(({ enabled }) => enabled)).toEqual([true, false]);
  soloPassage(desk, passageById(desk, 'p')!);
  expect(documentOf(desk).passages.map(({ enabled }) => enabled)).toEqual([true, true]);
  desk.end();
});

test('a passage stays within the song however far it is moved', () => {
  const passage = newPassage('p', 'x', 2, 4);
  const { desk } = opened({ passages: [passage] });
  const placed = (part: 'start' | 'end' | 'whole', by: number) => {
    useSongStore.of(desk).edit(movedPassage(desk, passage, part, by), 'Move');
    const [now] = times(desk);
    useSongStore.of(desk).undo();
    return now;
  };
  expect(placed('whole', 99)).toEqual([18, 20]);
  expect(placed('whole', -99)).toEqual([0, 2]);
  expect(placed('end', 99)).toEqual([2, 20]);
  expect(placed('end', -99)).toEqual([2, 2.02]);
  expect(placed('start', 99)).toEqual([3.98, 4]);
  desk.end();
});

test('times stick to what is chosen, go freely with Shift, and step from line to line', () => {
  const { desk } = opened();
  expect(snappedTime(desk, 1.2)).toBe(1);
  expect(snappedTime(desk, 1.2, true)).toBe(1.2);
  expect(snappedTime(desk, -3)).toBe(0);
  expect([steppedTime(desk, 1, 1, false), steppedTime(desk, 1.2, 1, false), steppedTime(desk, 1.2, -1, false)]).toEqual(
    [1.5, 1.5, 1],
  );
  expect(steppedTime(desk, 1, 1, true)).toBeCloseTo(1.01, 9);
  useSnap.of(desk).setSnap('off');
  expect(snappedTime(desk, 1.2)).toBe(1.2);
  expect(steppedTime(desk, 1, 1, false)).toBeCloseTo(1.1, 9);
  desk.end();
});

test('a passage is brought to the mean of what lies around it; silence beside it does not count; a line is raised as a whole', () => {
  const around = (before: number | null, within: number | null, after: number | null) => ({
    before,
    within,
    after,
    revision: 1,
  });
  expect(evenedByDb(around(-14, -20, -16))).toBeCloseTo(5, 9);
  expect(evenedByDb(around(null, -20, -16))).toBeCloseTo(4, 9);
  expect(evenedByDb(around(-70, -20, -16))).toBeCloseTo(4, 9);
  expect(evenedByDb(around(-14, null, -16))).toBeNull();
  expect(evenedByDb(around(null, -20, -80))).toBeNull();
  const points = [
    { atSeconds: 0, value: -3 },
    { atSeconds: 2, value: 23 },
  ];
  const figure = { stripId: MASTER_ID, of: 'strip', partId: '', field: 'gainDb' } as const;
  const passage = { ...newPassage('p', 'x', 2, 4), changes: [{ figure, value: -3, points }] };
  const { desk } = opened({ passages: [passage] });
  useSongStore.of(desk).edit(evening(desk, passage, 4), 'Even out');
  // No fader goes higher than 24 dB.
  expect(documentOf(desk).passages[0].changes[0].points.map(({ value }) => value)).toEqual([1, 24]);
  desk.end();
});
