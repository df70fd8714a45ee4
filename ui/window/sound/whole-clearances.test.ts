import { wrap } from 'comlink';
import { OrvidError } from '@/core/errors';
import { emptySong, newTrack, type Song } from '@/core/song';
import { Unreachable } from '../server/request';
import { requestLevels } from './stretches';
import { wholeClearances, type WholeClearances } from './whole-clearances';

jest.mock('comlink', () => ({ wrap: jest.fn() }));
jest.mock('./stretches', () => ({ ...jest.requireActual<object>('./stretches'), requestLevels: jest.fn() }));
let worker: { onerror: () => void };
Object.assign(globalThis, {
  Worker: class {
    constructor() {
      worker = this as never;
    }
    terminate() {}
  },
});

const track = (id: string) => newTrack({ audioId: id, channels: 1, lengthFrames: 48000 }, { id, name: id, ink: 0 });
const song: Song = { ...emptySong('Test'), tracks: [track('viola'), track('cello')] };

/** Goes through the clearances while some recordings fail. @returns what was told, for which recordings levels were given, and what was thrown */
async function told(faults: Record<string, Error>) {
  const given: string[] = [];
  const levels = { bytes: new ArrayBuffer(0), firstStep: 0, endStep: 1, stepsPerRow: 1 } as never;
  jest.mocked(requestLevels).mockImplementation((audioIds) => {
    const answers = audioIds.map((id) => [id, id in faults ? Promise.reject(faults[id]) : levels] as const);
    for (const [, answer] of answers) void Promise.resolve(answer).catch(() => undefined);
    return new Map(answers.map(([id, answer]) => [id, Promise.resolve(answer)]));
  });
  jest.mocked(wrap).mockReturnValue({
    setLevels: (audioId: string) => Promise.resolve(void given.push(audioId)),
    update: () => Promise.resolve({ clearances: { viola: null } }),
    alikePairs: () => Promise.resolve([]),
  } as never);
  const all: WholeClearances[] = [];
  const fault = await wholeClearances(song, new AbortController().signal, (found) => all.push(found)).then(
    () => null,
    (thrown: Error) => thrown,
  );
  return { all, given, fault };
}

test('an estimate, then what was measured', async () => {
  const { all, given, fault } = await told({});
  expect(all.map(({ isEstimated }) => isEstimated)).toEqual([true, false]);
  expect(given).toEqual(['viola', 'cello']);
  expect(fault).toBeNull();
});

test('a recording whose levels cannot be had is left out and named, the others have theirs', async () => {
  const damaged = new OrvidError('damaged', 'Viola: its recording is damaged from 0:12.');
  const { all, given, fault } = await told({ viola: damaged });
  expect(given).toEqual(['cello']);
  expect(all.map(({ isEstimated }) => isEstimated)).toEqual([true]);
  expect(fault?.message).toMatch(
    /^Viola: its recording is damaged from 0:12\. Clearances are estimated as if it were silent\.$/,
  );
});

test('where several cannot be had one is named, and how many more there are', async () => {
  const { all, fault } = await told({ viola: new Error('Viola is damaged.'), cello: new Error('Cello is damaged.') });
  expect(all).toHaveLength(1);
  expect(fault?.message).toBe(
    'Viola is damaged. The same holds for 1 more. Clearances are estimated as if they were silent.',
  );
});

test('a server that is gone is not asked for the rest', async () => {
  const gone = new Unreachable();
  const { all, given, fault } = await told({ viola: gone });
  expect([all, given, fault]).toEqual([[], [], gone]);
});

test('a worker whose script does not come is said; nobody waits for it', async () => {
  jest.useFakeTimers();
  jest.mocked(requestLevels).mockReturnValue(new Map());
  jest.mocked(wrap).mockReturnValue({ update: () => new Promise(() => undefined) } as never);
  const first = wholeClearances(song, new AbortController().signal, () => undefined);
  worker.onerror();
  jest.advanceTimersByTime(300);
  worker.onerror();
  await expect(first).rejects.toThrow(/could not be had from the server/);
  jest.useRealTimers();
});
