import { applyEdit, batch } from './edits';
import { emptySong, MASTER_ID, newBus, newProcessor, newTrack } from './model';
import { endKeysOf, isReturn, newReturn, sendTargets, setSend } from './returns';
import { songSchema, type Song } from './schema';

const track = (id: string) =>
  newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 9 }, { id, name: id, ink: 1 });
const base: Song = {
  ...emptySong('Returns'),
  tracks: [{ ...track('a'), outputId: 'g' }, track('b')],
  buses: [newBus({ id: 'g', name: 'Group', ink: 0 })],
};
const wanted = { id: 'room', name: 'Room', equalizerId: 'e', reverbId: 'r' };

test('a new return is a reverb that is heard alone, then an equalizer; the chosen tracks are sent to it', () => {
  const song = applyEdit(base, newReturn(base, ['a', MASTER_ID], wanted)!);
  expect(songSchema.safeParse(song).error).toBeUndefined();
  expect(song.buses[1]).toMatchObject({
    id: 'room',
    outputId: MASTER_ID,
    chain: [{ kind: 'reverb', dry: false }, { kind: 'equalizer' }],
  });
  expect(song.tracks[0].sends).toEqual([{ busId: 'room', gainDb: -12, tap: 'after-fader', enabled: true }]);
  expect([isReturn(song, 'room'), isReturn(song, 'g'), isReturn(song, 'a')]).toEqual([true, false, false]);
});

test('a send is made, set and taken away; there is none to what a strip runs into, nor a circle', () => {
  const song = applyEdit(base, newReturn(base, [], wanted)!);
  expect(sendTargets(song, 'a').map(({ id }) => id)).toEqual(['room']);
  expect(sendTargets(song, 'b').map(({ id }) => id)).toEqual(['g', 'room']);
  expect(sendTargets(song, 'room').map(({ id }) => id)).toEqual(['g']);
  const sent = applyEdit(song, setSend(song, 'b', 'room', { gainDb: -3 })!);
  const before = applyEdit(sent, setSend(sent, 'b', 'room', { tap: 'before-fader' })!);
  expect(before.tracks[1].sends).toEqual([{ busId: 'room', gainDb: -3, tap: 'before-fader', enabled: true }]);
  expect(applyEdit(before, setSend(before, 'b', 'room', null)!).tracks[1].sends).toEqual([]);
});

test('a strip that is listened to can be taken away, once nothing listens to it', () => {
  const key = { stripId: 'b', lowHz: null, highHz: 90 };
  const gate = { ...newProcessor('gate', 'p'), key };
  const keyed = applyEdit(base, { kind: 'processor.add', stripId: 'a', processor: gate as never, index: 1 });
  const song = applyEdit(keyed, batch([...endKeysOf(keyed, 'b'), { kind: 'track.remove', trackId: 'b' }])!);
  expect(song.tracks[0].chain[1]).toMatchObject({ enabled: false, key: { stripId: 'self', highHz: 90 } });
});
