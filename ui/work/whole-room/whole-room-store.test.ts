import { ROOM_LIMITS, type RoomMove } from '@/core/mix';
import { BAND_DEFAULTS, emptySong, firstEqualizer, newTrack, type Song } from '@/core/song';
import { songOf } from '../../window/song/live-song';
import { deskWith } from '../../window/testing/open-desk';
import { takeAll, useWholeRoom } from './whole-room-store';

const track = (id: string) =>
  newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 });
const song: Song = { ...emptySong('Test'), tracks: [track('a'), track('b')] };
const move = (key: string, changes: Partial<RoomMove>): RoomMove => ({
  key,
  kind: 'cut',
  trackId: 'a',
  forId: 'b',
  band: { ...BAND_DEFAULTS, type: 'bell', frequencyHz: 500, gainDb: -3 },
  gainDb: -3,
  thresholdDb: 0,
  wins: [],
  lossLu: 0.2,
  ...changes,
});

test('moves of one track that are taken at once are bands with letters of their own, and levels add up', () => {
  const desk = deskWith(song);
  const level = { kind: 'level', band: null, gainDb: -1.5 } as const;
  const moves = [move('one', {}), move('other', {}), move('level', level), move('level too', level)];
  const plan = { moves, lacks: [], clearances: [] };
  useWholeRoom.api(desk).setState({ isOpen: true, limits: ROOM_LIMITS, plan });
  takeAll(desk);
  expect(useWholeRoom.of(desk).taken).toHaveLength(4);
  const [shown] = songOf(desk).tracks;
  expect(firstEqualizer(shown)!.bands.map(({ letter }) => letter)).toEqual(['A', 'B']);
  expect(shown.gainDb).toBeCloseTo(song.tracks[0].gainDb - 3, 9);
});
