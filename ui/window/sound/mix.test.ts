import { wrap } from 'comlink';
import { emptySong, newTrack } from '@/core/song';
import { deskWith } from '../testing/open-desk';
import { followMix, useMix } from './mix';
import { useOneSource } from './one-source';

jest.mock('comlink', () => ({ proxy: (value: unknown) => value, wrap: jest.fn() }));

test('the mix is measured again when two tracks turn out to be one source, not when they turn out to be none', async () => {
  const update = jest.fn(() => Promise.resolve({ clearances: {}, overlaps: [] }));
  const remote = { update, space: () => Promise.resolve([]) };
  jest.mocked(wrap).mockReturnValue(remote as never);
  globalThis.Worker = class {
    terminate() {}
  } as never;
  const track = (id: string) =>
    newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 });
  const desk = deskWith({ ...emptySong('Pairs'), tracks: [track('a'), track('b'), track('c')] });
  followMix(desk);
  const settled = async () => {
    for (let i = 0; i < 10; i++) await Promise.resolve();
    return [update.mock.calls.length, useMix.of(desk).revision];
  };
  expect(await settled()).toEqual([1, 1]);
  const { judge } = useOneSource.of(desk);
  judge(['a'.repeat(64), 'b'.repeat(64)], false);
  expect(await settled()).toEqual([1, 1]);
  judge(['a'.repeat(64), 'c'.repeat(64)], true);
  expect(await settled()).toEqual([2, 2]);
  judge(['a'.repeat(64), 'c'.repeat(64)], true);
  expect(await settled()).toEqual([2, 2]);
  desk.end();
});
