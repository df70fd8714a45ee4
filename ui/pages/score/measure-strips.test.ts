import { OrvidError } from '@/core/errors';
import { MASTER_ID } from '@/core/song';
import { requestPart, type MeasuredPart } from '../../window/sound/measured-parts';
import { Unreachable } from '../../window/server/request';
import { measureStrips } from './score-store';

jest.mock('../../window/sound/measured-parts', () => ({ requestPart: jest.fn() }));

const figures = { integratedLufs: -20 } as MeasuredPart;
const damaged = new OrvidError('damaged', 'Cello: its recording is damaged from 0:12.');

/** Asks for strips of which some fail. @returns which were asked for, and which were told */
async function measured(stripIds: string[], faults: Record<string, Error>) {
  const [asked, told]: [string[], string[]] = [[], []];
  jest.mocked(requestPart).mockImplementation((_, stripId) => {
    asked.push(stripId);
    return stripId in faults ? Promise.reject(faults[stripId]) : Promise.resolve(figures);
  });
  const work = measureStrips('song', stripIds, new AbortController().signal, (stripId) => told.push(stripId));
  const fault = await work.then(
    () => null,
    (thrown: Error) => thrown,
  );
  return { asked, told, fault };
}

test('the mix comes first, then the others in their order', async () => {
  expect(await measured(['viola', 'cello', MASTER_ID], {})).toEqual({
    asked: [MASTER_ID, 'viola', 'cello'],
    told: [MASTER_ID, 'viola', 'cello'],
    fault: null,
  });
});

test('one that cannot be measured keeps no other from it, and is told in the end', async () => {
  const { told, fault } = await measured(['viola', 'cello', 'bass', 'drum'], { viola: damaged });
  expect(told).toEqual(['cello', 'bass', 'drum']);
  expect(fault).toBe(damaged);
});

test('a server that is gone is not asked for the rest', async () => {
  const gone = new Unreachable();
  const ids = Array.from({ length: 20 }, (_, i) => `track ${i}`);
  const { asked, fault } = await measured(ids, Object.fromEntries(ids.map((id) => [id, gone])));
  expect(fault).toBe(gone);
  expect(asked.length).toBeLessThanOrEqual(2);
});
