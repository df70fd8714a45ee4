import { OrvidError } from '@/core/errors';
import { MASTER_ID } from '@/core/song';
import { requestPart, requestParts, type MeasuredPart } from '../../window/sound/measured-parts';
import { Unreachable } from '../../window/server/request';
import { measureStrips } from './measure-strips';

jest.mock('../../window/sound/measured-parts', () => ({ requestPart: jest.fn(), requestParts: jest.fn() }));

const figures = { integratedLufs: -20 } as MeasuredPart;
const damaged = new OrvidError('damaged', 'Cello: its recording is damaged from 0:12.');

/**
 * Asks for strips of which some fail.
 * @param together those that can be measured in one render, or why it fails
 * @returns which were asked for by themselves, which were told, and how far those of one render were
 */
async function measured(stripIds: string[], together: readonly string[] | Error, faults: Record<string, Error> = {}) {
  const [asked, told, shares]: [string[], string[], number[]] = [[], [], []];
  jest.mocked(requestParts).mockImplementation((_, wanted, hear) => {
    expect(wanted).toEqual(stripIds);
    if (together instanceof Error) return Promise.reject(together);
    hear(0.5);
    return Promise.resolve(Object.fromEntries(together.map((id) => [id, figures])));
  });
  jest.mocked(requestPart).mockImplementation((_, stripId) => {
    asked.push(stripId);
    return stripId in faults ? Promise.reject(faults[stripId]) : Promise.resolve(figures);
  });
  const work = measureStrips('song', stripIds, new AbortController().signal, {
    progress: (share) => shares.push(share),
    measured: (found) => told.push(...Object.keys(found)),
  });
  const fault = await work.then(
    () => null,
    (thrown: Error) => thrown,
  );
  return { asked, told, shares, fault };
}

test('what can be measured in one render is; the others are measured by themselves', async () => {
  expect(await measured(['viola', 'muted', 'cello', MASTER_ID], ['viola', 'cello', MASTER_ID])).toEqual({
    asked: ['muted'],
    told: ['viola', 'cello', MASTER_ID, 'muted'],
    shares: [0.5],
    fault: null,
  });
  // Nothing is asked for where nothing is missing.
  jest.mocked(requestParts).mockClear();
  await measured([], []);
  expect(requestParts).not.toHaveBeenCalled();
});

test('where one of them hinders the render each is measured by itself, the mix first, and what is wrong is told in the end', async () => {
  const { asked, told, fault } = await measured(['viola', 'cello', 'drum', MASTER_ID], damaged, { viola: damaged });
  expect(asked).toEqual([MASTER_ID, 'viola', 'cello', 'drum']);
  expect(told).toEqual([MASTER_ID, 'cello', 'drum']);
  expect(fault).toBe(damaged);
});

test('a server that is gone is not asked for the rest', async () => {
  const gone = new Unreachable();
  const ids = Array.from({ length: 20 }, (_, i) => `track ${i}`);
  expect(await measured(ids, gone)).toMatchObject({ asked: [], told: [], fault: gone });
  const later = await measured(ids, [], Object.fromEntries(ids.map((id) => [id, gone])));
  expect(later.fault).toBe(gone);
  expect(later.asked.length).toBeLessThanOrEqual(2);
});
