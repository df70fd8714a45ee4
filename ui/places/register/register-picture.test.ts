/** @jest-environment jsdom */
import { emptySong, newTrack, type Song } from '@/core/song';
import { frequencyScale } from '../../kit/axis/scale';
import { deskWith } from '../../window/testing/open-desk';
import { useSelection } from '../../window/song/selection';
import { useMix } from '../../window/sound/mix';
import { leaveOverlap } from '../../work/overlaps/overlaps-store';
import { RegisterPicture } from './register-picture';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

const HEIGHT = 30;
const IDS = ['a', 'b', 'c', 'd'];
const song: Song = {
  ...emptySong('Lanes'),
  tracks: IDS.map((id) =>
    newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 }),
  ),
};

/** A picture of four lanes at rest. @returns which lanes are drawn by the next frames */
function open() {
  let cleared: number[] = [];
  const context = new Proxy({} as CanvasRenderingContext2D, {
    get: (_, name) => (name === 'clearRect' ? (_: number, y: number) => cleared.push(y) : () => ({ e: 0, f: 0 })),
    set: () => true,
  });
  window.Path2D = class {
    moveTo() {}
    lineTo() {}
    bezierCurveTo() {}
    closePath() {}
  } as unknown as typeof Path2D;
  HTMLCanvasElement.prototype.getContext = (() => context) as unknown as HTMLCanvasElement['getContext'];
  const desk = deskWith(song);
  const picture = new RegisterPicture(desk);
  const rows = IDS.map((id) => ({ id, kind: 'track' as const, depth: 0, isFolded: false }));
  const canvas = document.createElement('canvas');
  picture.layOut(canvas, { rows, laneHeight: HEIGHT, height: IDS.length * HEIGHT, axis: frequencyScale(400) });
  const drawn = () => {
    cleared = [];
    jest.advanceTimersByTime(100);
    return [...new Set(cleared)].sort((a, b) => a - b).map((y) => IDS[y / HEIGHT]);
  };
  expect(drawn()).toEqual(IDS);
  return { desk, picture, drawn };
}

test('of all lanes those are drawn that a change is about, and those that a solo leaves out', () => {
  const { picture, drawn } = open();
  const changed = (id: string, changes: object): Song => ({
    ...song,
    tracks: song.tracks.map((track) => (track.id === id ? { ...track, ...changes } : track)),
  });
  picture.touchChanged(changed('b', { gainDb: -3 }), song);
  expect(drawn()).toEqual(['b']);
  picture.touchChanged(changed('c', { soloed: true }), song);
  expect(drawn()).toEqual(IDS);
  picture.touchChanged(changed('c', { muted: true }), song);
  expect(drawn()).toEqual(['c']);
});

test('when the mix was measured anew, those lanes are drawn in which somebody is in the way who was not before', () => {
  const { desk, picture, drawn } = open();
  const measured = (lowHz: number | null) => {
    const overlap = { quieterId: 'a', louderId: 'd', lowHz, highHz: 400, lostDb: 6 };
    useMix.api(desk).setState(({ revision }) => ({
      figures: { clearances: {}, overlaps: lowHz === null ? [] : [overlap as never] },
      revision: revision + 1,
    }));
    picture.touchJudged();
    return drawn();
  };
  expect(measured(null)).toEqual([]);
  expect(measured(200)).toEqual(['a', 'd']);
  expect(measured(200)).toEqual([]);
  expect(measured(250)).toEqual(['a', 'd']);
  expect(measured(null)).toEqual(['a', 'd']);
  // One that is left is not hatched any more, though nothing was measured since.
  expect(measured(250)).toEqual(['a', 'd']);
  leaveOverlap(desk, useMix.of(desk).figures.overlaps[0]);
  picture.touchJudged();
  expect(drawn()).toEqual(['a', 'd']);
});

test('where there is space is drawn in the lane of the chosen track', () => {
  const { desk, picture, drawn } = open();
  useSelection.of(desk).chooseStrip('b');
  drawn();
  useMix.api(desk).setState({ space: [{ lowHz: 500, highHz: 900 }] });
  picture.touchJudged();
  expect(drawn()).toEqual(['b']);
});
