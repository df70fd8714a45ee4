import { OrvidError } from '@/core/errors';
import { wholeRows } from '@/core/measure';
import { emptySong, newTrack } from '@/core/song';
import { noticesOf } from '../notices/notices';
import { request, Unreachable } from '../server/request';
import { deskWith } from '../testing/open-desk';
import { levelsSettled, useAnalyses } from './analyses';
import { requestLevels } from './stretches';

jest.mock('./stretches', () => ({
  ...jest.requireActual<typeof import('./stretches')>('./stretches'),
  requestLevels: jest.fn(),
}));
jest.mock('../server/request', () => ({
  ...jest.requireActual<typeof import('../server/request')>('../server/request'),
  request: jest.fn(),
}));
beforeEach(() => jest.mocked(request).mockRejectedValue(new Unreachable()));

test('levels are waited for until each recording has its own, or is known to have none', async () => {
  const desk = deskWith(emptySong('Settled'));
  const { setState } = useAnalyses.api(desk);
  let isSettled = false;
  const settled = levelsSettled(desk, ['a', 'b']).then(() => (isSettled = true));
  setState({ levels: { a: [wholeRows(new Uint8Array(1))] } });
  await Promise.resolve();
  expect(isSettled).toBe(false);
  setState({ failed: ['c'] });
  await Promise.resolve();
  expect(isSettled).toBe(false);
  setState({ failed: ['c', 'b'] });
  await settled;
  await levelsSettled(desk, ['a', 'b', 'c']);
  await levelsSettled(desk, []);
});

test.each([
  ['for which the server is gone are asked for again when it is back, without a word here', new Unreachable(), 0],
  ['that the server cannot work out are named', new OrvidError('damaged', 'Cello is damaged from 0:12.'), 1],
])('levels %s', async (_, error, notices) => {
  const recording = { audioId: 'a'.repeat(64), channels: 1 as const, lengthFrames: 48000 };
  const song = { ...emptySong('Levels'), tracks: [newTrack(recording, { id: 'a', name: 'Cello', ink: 0 })] };
  const desk = deskWith(song);
  jest.mocked(requestLevels).mockImplementation((ids) => new Map(ids.map((id) => [id, Promise.reject(error)])));
  useAnalyses.of(desk).need(song);
  await levelsSettled(desk, [recording.audioId]);
  expect(noticesOf(desk).visibleToasts).toHaveLength(notices);
});
