import { newPassage } from '@/core/passages';
import { emptyEqualizer, emptySong, newBandSettings, newTrack, type Passage, type Song } from '@/core/song';
import { deskWith } from '../testing/open-desk';
import { soundOf } from '../sound/audio-state';
import { documentOf, settledSong, songOf } from './live-song';
import { useOpenPassage } from './open-passage';
import { useSongStore } from './song-store';

const band = { ...newBandSettings('bell', 500), id: 'b', letter: 'A', gainDb: 4 };
function song(passages: Passage[]): Song {
  const track = newTrack(
    { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 480000 },
    { id: 't', name: 'Cello', ink: 0 },
  );
  return { ...emptySong('Test'), tracks: [{ ...track, chain: [{ ...emptyEqualizer('e'), bands: [band] }] }], passages };
}
const bandIn = ({ tracks: [{ chain }] }: Song) => chain[0].kind === 'equalizer' && chain[0].bands[0];
const set = (gainDb: number) =>
  ({ kind: 'band.set', stripId: 't', equalizerId: 'e', bandId: 'b', changes: { gainDb } }) as const;
const setHz = (frequencyHz: number) =>
  ({ kind: 'band.set', stripId: 't', equalizerId: 'e', bandId: 'b', changes: { frequencyHz } }) as const;

/** A desk whose playhead stands, or plays, where it is told to. */
function opened() {
  const desk = deskWith(song([newPassage('p', 'Refrain', 1, 3)]));
  // What comes out is heard half a second later.
  const place = { position: 48000, isPlaying: false };
  const session = { state: place, heardFrame: () => (place.isPlaying ? place.position - 24000 : place.position) };
  soundOf(desk).session = session as unknown as ReturnType<typeof soundOf>['session'];
  useOpenPassage.of(desk).open('p');
  return { desk, place, store: () => useSongStore.of(desk) };
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('while a passage is open the page shows it, the song is heard as it is, and closing it shows the song again', () => {
  const { desk, store } = opened();
  expect(store().edit(set(-6), 'Gain')).toBe(true);
  expect(bandIn(songOf(desk))).toMatchObject({ gainDb: -6 });
  expect(bandIn(settledSong(desk))).toMatchObject({ gainDb: -6 });
  expect(bandIn(store().state.song)).toMatchObject({ gainDb: -6 });
  expect(bandIn(documentOf(desk))).toMatchObject({ gainDb: 4 });
  useOpenPassage.of(desk).open(null);
  expect(bandIn(songOf(desk))).toMatchObject({ gainDb: 4 });
  expect(songOf(desk)).toBe(documentOf(desk));
  store().undo();
  expect(documentOf(desk).passages[0].changes).toEqual([]);
  desk.end();
});

test('a drag in an open passage is one step of undo, and a preview that is taken back leaves nothing', () => {
  const { desk, store } = opened();
  const owner = {};
  for (const gainDb of [-1, -2, -3]) store().preview(owner, set(gainDb), { isDrag: true });
  expect(documentOf(desk).passages[0].changes[0].value).toBe(-3);
  store().preview(owner, null);
  expect(documentOf(desk).passages[0].changes).toEqual([]);
  store().preview(owner, set(-5));
  store().keepPreview(owner, 'Gain');
  store().undo();
  expect(documentOf(desk).passages[0].changes).toEqual([]);
  desk.end();
});

test('a passage that is removed elsewhere is closed', () => {
  const { desk, store } = opened();
  store().edit({ kind: 'passage.remove', passageId: 'p' }, 'Remove');
  expect(useOpenPassage.of(desk).passageId).toBeNull();
  expect(songOf(desk)).toBe(documentOf(desk));
  desk.end();
});

test('what is moved while it plays and is recorded becomes a line; what is moved while it stands is a value', () => {
  const { desk, place, store } = opened();
  useOpenPassage.of(desk).record(true);
  const owner = {};
  store().preview(owner, setHz(700));
  store().keepPreview(owner, 'Frequency');
  expect(documentOf(desk).passages[0].changes[0].points).toEqual([]);
  place.isPlaying = true;
  for (let n = 0; n <= 20; n++) {
    place.position = 48000 + 4800 * n;
    store().preview(owner, setHz(400 * 2 ** (n / 10)), { isDrag: true });
    // It is heard as it is held.
    expect(bandIn(songOf(desk))).toMatchObject({ frequencyHz: 400 * 2 ** (n / 10) });
  }
  store().keepPreview(owner, 'Frequency');
  const [{ points }] = documentOf(desk).passages[0].changes;
  expect(points).toEqual([
    { atSeconds: 0, value: 400 },
    { atSeconds: 2, value: 1600 },
  ]);
  // A second touch in the middle stands in the place of what was there.
  for (const [second, hz] of [
    [0.5, 3000],
    [0.6, 3000],
  ]) {
    place.position = 48000 * (1 + second);
    store().preview(owner, setHz(hz));
  }
  store().keepPreview(owner, 'Frequency');
  expect(documentOf(desk).passages[0].changes[0].points.map(({ atSeconds }) => atSeconds)).toEqual([0, 0.5, 0.6, 2]);
  store().undo();
  expect(documentOf(desk).passages[0].changes[0].points).toEqual(points);
  desk.end();
});

test('keys that are pressed while it is recorded make one line', () => {
  const { desk, place, store } = opened();
  useOpenPassage.of(desk).record(true);
  place.isPlaying = true;
  [1000, 1200, 1400].forEach((hz, n) => {
    place.position = 48000 + 9600 * n;
    store().editByKey(setHz(hz), 'Frequency', 'hz');
  });
  expect(documentOf(desk).passages[0].changes[0].points.at(-1)).toEqual({ atSeconds: 0.4, value: 1400 });
  expect(documentOf(desk).passages[0].changes[0].points[0]).toEqual({ atSeconds: 0, value: 1000 });
  desk.end();
});
