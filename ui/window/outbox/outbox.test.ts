import { OrvidError, type ErrorCode } from '@/core/errors';
import type { Edit } from '@/core/song';
import type { PendingEdit } from '../song/song-state';
import { LeftEdits, songsWithLeftEdits, takeLeftEdits } from './left-edits';
import { Unreachable } from '../server/request';
import { Outbox, type Post } from './outbox';

/** The browser's storage, as far as it is used. */
class Memory {
  private readonly entries = new Map<string, string>();
  isFull = false;
  get length() {
    return this.entries.size;
  }
  key = (i: number) => [...this.entries.keys()][i] ?? null;
  getItem = (key: string) => this.entries.get(key) ?? null;
  removeItem = (key: string) => void this.entries.delete(key);
  setItem(key: string, value: string) {
    if (this.isFull) throw new Error('no room');
    this.entries.set(key, value);
  }
}

const title = (text: string): Edit => ({ kind: 'song.set', changes: { title: text } });
const edits = (count: number, first = 0): PendingEdit[] =>
  Array.from({ length: count }, (_, i) => ({ id: `e${first + i}`, edit: title(String(first + i)) }));

/** An outbox with a server that is answered for by hand. */
function setUp(answer: Post) {
  const storage = new Memory();
  const posts: string[][] = [];
  const told: string[] = [];
  const outbox = new Outbox(
    (sent) => {
      posts.push(sent.map(({ id }) => id));
      return answer(sent);
    },
    new LeftEdits('song', 'window', storage),
  );
  outbox.listen({
    onAccepted: ({ id }, revision) => told.push(`${id} is ${revision}`),
    onRefused: ({ id }, { message }) => told.push(`${id} refused: ${message}`),
    onState: (state, why) => told.push(why ? `${state}: ${why}` : state),
  });
  return { outbox, storage, posts, told };
}
let revision = 0;
const accept: Post = (sent) => Promise.resolve(sent.map(({ id }) => ({ id, revision: ++revision })));
const settle = () => jest.advanceTimersByTimeAsync(0);

beforeEach(() => {
  revision = 0;
  jest.useFakeTimers();
});
afterEach(() => jest.useRealTimers());

test('edits go to the server in order, and are kept in the browser until they are acknowledged', async () => {
  let done: (outcomes: { id: string; revision: number }[]) => void = () => undefined;
  const { outbox, storage, told } = setUp(() => new Promise((resolve) => (done = resolve)));
  outbox.set(edits(2));
  expect(takeLeftEdits('song', storage)).toEqual(edits(2));
  outbox.set([...edits(2), ...edits(1, 2)]);
  done([
    { id: 'e0', revision: 1 },
    { id: 'e1', revision: 2 },
  ]);
  await settle();
  expect(songsWithLeftEdits(storage)).toEqual(['song']);
  done([{ id: 'e2', revision: 3 }]);
  await settle();
  expect(told).toEqual(['saving', 'e0 is 1', 'e1 is 2', 'saving', 'e2 is 3', 'saved']);
  expect(storage.length).toBe(0);
  expect(outbox.isEmpty).toBe(true);
});

test('forty edits while the server is gone make a handful of requests, farther and farther apart', async () => {
  let isGone = true;
  const { outbox, posts, told } = setUp((sent) => (isGone ? Promise.reject(new Error('gone')) : accept(sent)));
  for (let i = 1; i <= 40; i++) {
    outbox.set(edits(i));
    await jest.advanceTimersByTimeAsync(150);
  }
  expect(posts.length).toBeLessThanOrEqual(4);
  expect(told.filter((line) => line === 'unreachable').length).toBe(posts.length);
  await jest.advanceTimersByTimeAsync(120_000);
  // At once, then after 1, 2, 4, 8, 16 and each 30 seconds: one timer.
  expect(posts.length).toBeLessThan(10);
  isGone = false;
  outbox.wake();
  await settle();
  expect(posts.at(-1)).toHaveLength(40);
  expect(told.at(-1)).toBe('saved');
});

test.each<[ErrorCode, string]>([
  ['disk-full', 'full'],
  ['disk-failing', 'unable: no'],
  ['internal', 'unable: no'],
])('edits wait, and are not taken back, while the server cannot write (%s)', async (code, absence) => {
  let isOver = false;
  const { outbox, told, storage } = setUp((sent) =>
    isOver ? accept(sent) : Promise.reject(new OrvidError(code, 'no')),
  );
  outbox.set(edits(2));
  await jest.advanceTimersByTimeAsync(5000);
  expect(new Set(told)).toEqual(new Set(['saving', absence]));
  expect(takeLeftEdits('song', storage)).toEqual(edits(2));
  isOver = true;
  await jest.advanceTimersByTimeAsync(30_000);
  expect(told.slice(-3)).toEqual(['e0 is 1', 'e1 is 2', 'saved']);
});

test('a server without an answer is unreachable', async () => {
  const { outbox, told } = setUp(() => Promise.reject(new Unreachable()));
  outbox.set(edits(1));
  await settle();
  expect(told).toEqual(['saving', 'unreachable']);
});

test('an edit that the server refuses by its outcome is told, and the others are kept', async () => {
  const { outbox, told } = setUp((sent) =>
    Promise.resolve(
      sent.map(({ id }) => (id === 'e1' ? { id, error: { message: 'no' } } : { id, revision: ++revision })),
    ),
  );
  outbox.set(edits(3));
  await settle();
  expect(told).toEqual(['saving', 'e0 is 1', 'e1 refused: no', 'e2 is 2', 'saved']);
});

test.each(['invalid-input', 'too-large', 'unreadable-audio'] as const)(
  'a request that is refused (%s) is looked through: the edit at fault is told, and the queue goes on',
  async (code) => {
    const { outbox, told } = setUp((sent) =>
      sent.some(({ id }) => id === 'e5') ? Promise.reject(new OrvidError(code, 'not this')) : accept(sent),
    );
    outbox.set(edits(9));
    await jest.advanceTimersByTimeAsync(100);
    expect(told.filter((line) => line.includes('refused'))).toEqual(['e5 refused: not this']);
    expect(told.filter((line) => line.includes(' is '))).toHaveLength(8);
    expect(told.at(-1)).toBe('saved');
  },
);

test('what is in it when nobody looks any more is sent all the same', async () => {
  let isGone = true;
  const { outbox, posts, storage } = setUp((sent) => (isGone ? Promise.reject(new Error('gone')) : accept(sent)));
  outbox.set(edits(2));
  await settle();
  outbox.listen(null);
  isGone = false;
  await jest.advanceTimersByTimeAsync(5000);
  expect(posts.at(-1)).toEqual(['e0', 'e1']);
  expect(storage.length).toBe(0);
});

test('what other windows have left is taken over once; damaged entries are passed over; a full storage is known', async () => {
  const { outbox, storage } = setUp(() => Promise.reject(new Error('gone')));
  new LeftEdits('song', 'a', storage).write(edits(2));
  new LeftEdits('song', 'b', storage).write(edits(2, 1));
  new LeftEdits('other', 'a', storage).write(edits(1));
  storage.setItem('orvid-outbox/song/c', '{not json');
  expect(takeLeftEdits('song', storage).map(({ id }) => id)).toEqual(['e0', 'e1', 'e2']);
  expect(takeLeftEdits('song', storage)).toEqual([]);
  expect(songsWithLeftEdits(storage)).toEqual(['other']);
  storage.isFull = true;
  outbox.set(edits(1));
  expect(outbox.isSafe).toBe(false);
  await settle();
});

test('a song that was deleted elsewhere is told from a server that is gone, and its edits wait for it', async () => {
  let isDeleted = true;
  const { outbox, posts, told, storage } = setUp((sent) =>
    isDeleted ? Promise.reject(new OrvidError('not-found', 'There is no such song.')) : accept(sent),
  );
  outbox.set(edits(2));
  await jest.advanceTimersByTimeAsync(120_000);
  expect(told).toEqual(['saving', 'deleted']);
  expect(posts).toHaveLength(1);
  expect(songsWithLeftEdits(storage)).toEqual(['song']);
  isDeleted = false;
  outbox.wake();
  await settle();
  expect(told.slice(2)).toEqual(['saving', 'e0 is 1', 'e1 is 2', 'saved']);
  expect(storage.length).toBe(0);
});
