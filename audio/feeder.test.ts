import { PAGE_FRAMES } from '@/core/engine';
import { Feeder, MOST_BYTES } from './feeder';
import type { EngineMessage } from './messages';

// What a page holds is page-pool.test's matter; here pages are small, since there are thousands.
jest.mock('./page-pool', () => ({
  PagePool: class {
    take = () => new SharedArrayBuffer(16);
    give = () => undefined;
  },
  readInto: () => Promise.resolve(),
}));

const recording = (name: string, pages: number) => ({
  audioId: name,
  channels: 1 as const,
  lengthFrames: pages * PAGE_FRAMES,
});

/** A feeder with a server that answers when it is told to. */
function setUp(places: number | (() => number[]) = 0) {
  const asked: { url: string; answer: (status?: number) => void }[] = [];
  const posted: EngineMessage[] = [];
  const progress: number[] = [];
  const errors: string[] = [];
  globalThis.fetch = ((url: string) =>
    new Promise((done, fail) => {
      const answer = (status = 200) =>
        status === 0 ? fail(new Error('gone')) : done(new Response(new Float32Array(4).buffer, { status }));
      asked.push({ url, answer });
    })) as typeof fetch;
  const feeder = new Feeder(
    (message) => posted.push(message),
    typeof places === 'number' ? () => [places] : places,
    (value) => progress.push(value),
    (message) => errors.push(message),
  );
  opened.push(feeder);
  const settle = () => new Promise((done) => setTimeout(done, 0));
  const pagesAsked = () => asked.map(({ url }) => Number(url.split('/').pop()));
  return { feeder, asked, posted, progress, errors, settle, pagesAsked };
}
const opened: Feeder[] = [];
const realFetch = globalThis.fetch;
afterEach(() => {
  opened.splice(0).forEach((feeder) => feeder.close());
  globalThis.fetch = realFetch;
  jest.useRealTimers();
});

test('pages at the playhead come first, then what follows, then what lies before; six at a time', async () => {
  const { feeder, asked, settle, pagesAsked } = setUp(5 * PAGE_FRAMES + 100);
  feeder.playing();
  feeder.need([recording('a', 9)]);
  expect(pagesAsked()).toEqual([5, 6, 7, 8, 4, 3]);
  asked[0].answer();
  await settle();
  expect(pagesAsked()[6]).toBe(2);
});

test('pages of all recordings at the playhead come before the later ones of any', () => {
  const { feeder, asked } = setUp();
  feeder.need([recording('a', 3), recording('b', 3)]);
  expect(asked.map(({ url }) => url).slice(0, 4)).toEqual([
    '/api/audio/a/pages/0',
    '/api/audio/b/pages/0',
    '/api/audio/a/pages/1',
    '/api/audio/b/pages/1',
  ]);
});

test('what arrives is posted, with the progress; a recording that is known is not asked for again', async () => {
  const { feeder, asked, posted, progress, settle } = setUp();
  feeder.need([recording('a', 2)]);
  feeder.need([recording('a', 2)]);
  expect(asked).toHaveLength(2);
  asked.forEach(({ answer }) => answer());
  await settle();
  await settle();
  expect(posted.map((message) => message.type)).toEqual(['recording', 'page', 'page']);
  expect(progress[progress.length - 1]).toBe(1);
});

test('a recording that the song no longer has is forgotten', () => {
  const { feeder, posted } = setUp();
  feeder.need([recording('a', 1)]);
  feeder.need([recording('b', 1)]);
  expect(posted).toContainEqual({ type: 'forget', audioId: 'a' });
});

test('before it plays only what lies ahead of where it may start is brought, then everything', async () => {
  const { feeder, asked, progress, settle, pagesAsked } = setUp(20 * PAGE_FRAMES);
  feeder.need([recording('a', 40)]);
  for (let i = 0; i < 20; i++) {
    asked[i]?.answer();
    await settle();
  }
  // Eight pages ahead, and one before: it is as far as four ahead.
  expect([...pagesAsked()].sort((a, b) => a - b)).toEqual([19, 20, 21, 22, 23, 24, 25, 26, 27]);
  expect(progress.at(-1)).toBe(1);
  feeder.playing();
  expect(progress.at(-1)).toBeLessThan(1);
  for (let i = 9; i < 40; i++) {
    asked[i].answer();
    await settle();
  }
  expect(new Set(pagesAsked()).size).toBe(40);
  expect(progress.at(-1)).toBe(1);
});

test('a song without recordings is there at once', () => {
  const { feeder, progress } = setUp();
  feeder.need([]);
  expect(progress).toEqual([1]);
});

test('a page that fails is tried again; after four tries it is said, once, and it is asked for when the server is back', async () => {
  jest.useFakeTimers();
  const { feeder, asked, errors } = setUp();
  feeder.need([recording('a', 1)]);
  for (let i = 0; i < 4; i++) {
    asked[i].answer(i % 2 === 0 ? 500 : 0);
    await jest.advanceTimersByTimeAsync(2000);
  }
  expect(asked).toHaveLength(4);
  expect(errors).toEqual([expect.stringContaining('asked for again when the server is back')]);
  feeder.again();
  expect(asked).toHaveLength(5);
  feeder.again();
  expect(asked).toHaveLength(5);
});

describe('a song that is longer than there is room for', () => {
  /** Two minutes of so many stereo recordings, of which there is room for some seconds. */
  const PAGES = 88;
  const many = Array.from({ length: 60 }, (_, i) => ({ ...recording(`r${i}`, PAGES), channels: 2 as const }));
  const MOST_PAGES = Math.floor(MOST_BYTES / (2 * PAGE_FRAMES * 4));

  /** Plays on page by page; everything that is asked for arrives. */
  async function played(pages: readonly number[]) {
    const at = { page: 0 };
    const { feeder, asked, posted, settle } = setUp(() => [at.page * PAGE_FRAMES, 0]);
    const held = new Set<string>();
    const most = { held: 0 };
    const missed: number[] = [];
    feeder.need(many);
    feeder.playing();
    let seen = 0;
    for (const page of pages) {
      at.page = page;
      feeder.bring();
      for (let answered = 0; answered < asked.length;) {
        asked.splice(0).forEach(({ answer }) => answer());
        answered = asked.length;
        await settle();
      }
      for (const message of posted.slice(seen)) {
        if (message.type === 'page') held.add(`${message.audioId}/${message.page}`);
        if (message.type === 'drop') held.delete(`${message.audioId}/${message.page}`);
        most.held = Math.max(most.held, held.size);
      }
      seen = posted.length;
      if (many.some(({ audioId }) => !held.has(`${audioId}/${page}`))) missed.push(page);
    }
    return { most: most.held, missed, held };
  }

  test('what is held stays within bounds, and what is played is there, on and on and after a jump', async () => {
    const way = [...Array.from({ length: 40 }, (_, page) => page), 70, 71, 72, 3, 4];
    const { most, missed, held } = await played(way);
    expect(missed).toEqual([]);
    expect(most).toBeLessThanOrEqual(MOST_PAGES + many.length);
    // The beginning, from which it may start again, is there as well.
    expect(held.has('r0/0')).toBe(true);
    expect(held.has('r0/40')).toBe(false);
  });
});
