import { OrvidError } from '@/core/errors';
import { joinRows } from '@/core/measure';
import { requestPacked, Unreachable } from '../server/request';
import { requestLevels } from './stretches';

jest.mock('../server/request', () => ({
  ...jest.requireActual<object>('../server/request'),
  requestPacked: jest.fn(),
}));

const audioIds = Array.from({ length: 60 }, (_, i) => (4 * i).toString(16).padStart(2, '0').repeat(32));
const WHOLE = { from: 0, to: Infinity, stepsPerRow: 4 };
const namedIn = (url: string) => url.split(/[/?]/)[3].split(',');
/** What a recording has is told by its name. */
const rowsOf = (audioId: string) =>
  Uint8Array.from(Buffer.from(audioId.slice(0, 2 + (audioId.charCodeAt(1) % 8)), 'latin1'));

/** A server that has the levels of all recordings but some. @returns the addresses that it was asked for */
function serverWithout(faults: Record<string, Error> = {}): string[] {
  const urls: string[] = [];
  jest.mocked(requestPacked).mockImplementation((url) => {
    urls.push(url);
    const fault = namedIn(url).find((audioId) => audioId in faults);
    return fault ? Promise.reject(faults[fault]) : Promise.resolve(joinRows(namedIn(url).map(rowsOf)));
  });
  return urls;
}

test('sixty recordings are asked for in a few requests, each gets its own levels', async () => {
  const urls = serverWithout();
  const levels = requestLevels(audioIds, WHOLE);
  expect(urls.length).toBeLessThanOrEqual(8);
  expect([...levels.keys()].toSorted()).toEqual(audioIds.toSorted());
  for (const [audioId, asked] of levels)
    expect(await asked).toEqual({ bytes: rowsOf(audioId), firstStep: 0, endStep: Infinity, stepsPerRow: 4 });
});

test('a recording more, or another order, leaves most addresses as they are', () => {
  const before = serverWithout();
  requestLevels(audioIds.slice(1), WHOLE);
  const after = serverWithout();
  requestLevels(audioIds.toReversed(), WHOLE);
  expect(after.filter((url) => !before.includes(url))).toHaveLength(1);
});

test('the server is not asked for the levels of no recording', () => {
  const urls = serverWithout();
  expect(requestLevels([], WHOLE).size).toBe(0);
  expect(urls).toEqual([]);
});

test('a damaged recording keeps no other from its levels', async () => {
  const damaged = new OrvidError('damaged', 'Cello is damaged from 0:12.');
  serverWithout({ [audioIds[7]]: damaged });
  const levels = requestLevels(audioIds, WHOLE);
  for (const audioId of audioIds) {
    const asked = levels.get(audioId)!;
    if (audioId === audioIds[7]) await expect(asked).rejects.toBe(damaged);
    else expect((await asked).bytes).toEqual(rowsOf(audioId));
  }
});

test('a server that is gone is not asked again for each', async () => {
  const urls = serverWithout(Object.fromEntries(audioIds.map((audioId) => [audioId, new Unreachable()])));
  const levels = requestLevels(audioIds, WHOLE);
  const asked = urls.length;
  for (const answer of levels.values()) await expect(answer).rejects.toBeInstanceOf(Unreachable);
  expect(urls).toHaveLength(asked);
});
