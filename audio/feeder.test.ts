import { PAGE_FRAMES, PIECE_FRAMES, PIECES_OF_PAGE } from '@/core/engine';
import { Feeder, MOST_BYTES, type FedRecording } from './feeder';
import { newTable } from './sample-memory';

// What is written into the slots is sample-memory.test's matter.
jest.mock('./sample-memory', () => ({
  ...jest.requireActual<object>('./sample-memory'),
  readInto: (_: Response, pieces: readonly Uint8Array[], onFull: (index: number) => void) => {
    pieces.slice(0, shown).forEach((_, i) => onFull(i));
    return pieces.length > shown ? Promise.reject(new Error('cut short')) : Promise.resolve();
  },
}));
/** So many arrays of an answer arrive. */
let shown = Infinity;
/** Room for as many samples as the page of the browser has, in pages of one channel. */
const ROOM = MOST_BYTES / (4 * PAGE_FRAMES);

const recording = (name: string, pages: number, changes: Partial<FedRecording> = {}): FedRecording => ({
  audioId: name,
  channels: 1,
  lengthFrames: pages * PAGE_FRAMES,
  table: newTable(changes.channels ?? 1, pages * PAGE_FRAMES),
  isHeard: true,
  ...changes,
});
const hasPiece = ({ table, channels }: FedRecording, piece: number) => new Int32Array(table)[piece * channels] !== 0;
const hasPage = (recording: FedRecording, page: number) =>
  Array.from({ length: PIECES_OF_PAGE }, (_, i) => page * PIECES_OF_PAGE + i).every((piece) =>
    hasPiece(recording, piece),
  );

/** A run of pieces, told by its page. */
function named(run: string): string {
  const [, name, first, last] = /^(.+)\.(\d+)-(\d+)$/.exec(run)!;
  const page = Math.floor(Number(first) / PIECES_OF_PAGE);
  const [from, to] = [first, last].map((piece) => Number(piece) - page * PIECES_OF_PAGE);
  return `${name}.${page}${to - from + 1 === PIECES_OF_PAGE ? '' : `:${from}-${to}`}`;
}

/** A feeder with a server that answers when it is told to. */
function setUp(position: number | (() => number) = 0, room = ROOM) {
  /** Requests: what each names, `recording.page` for all of a page and `recording.page:piece-piece` for some of its pieces. */
  const asked: { pages: string[]; answer: (how?: number | Response) => void }[] = [];
  const progress: number[] = [];
  const errors: string[] = [];
  globalThis.fetch = ((url: string) =>
    new Promise((done, fail) => {
      const answer = (how: number | Response = 200) => {
        if (typeof how !== 'number') done(how);
        else if (how === 0) fail(new Error('gone'));
        else done(new Response(new Float32Array(4).buffer, { status: how }));
      };
      asked.push({ pages: url.slice('/api/pages/'.length).split(',').map(named), answer });
    })) as typeof fetch;
  const feeder = new Feeder(
    new SharedArrayBuffer(4 * PAGE_FRAMES * room),
    48000,
    typeof position === 'number' ? () => position : position,
    (value) => progress.push(value),
    (message) => errors.push(message),
  );
  opened.push(feeder);
  const settle = () => new Promise((done) => setTimeout(done, 0));
  const pagesAsked = () => asked.flatMap(({ pages }) => pages.map((page) => parseInt(page.split('.')[1])));
  /** Everything that is asked for arrives, and what is asked for then. */
  const answerAll = async () => {
    for (let from = 0; from < asked.length;) {
      const upTo = asked.length;
      for (; from < upTo; from++) asked[from].answer();
      await settle();
      await settle();
    }
  };
  return { feeder, asked, progress, errors, settle, pagesAsked, answerAll };
}
const opened: Feeder[] = [];
const realFetch = globalThis.fetch;
afterEach(() => {
  opened.splice(0).forEach((feeder) => feeder.close());
  globalThis.fetch = realFetch;
  jest.useRealTimers();
});

test('what is heard next comes first, then the rest of its page, the next, the beginning, and what follows; about four pages in a request, two requests at a time', async () => {
  const { feeder, asked, settle } = setUp(5 * PAGE_FRAMES + 100);
  feeder.playing();
  feeder.need([recording('a', 20)]);
  expect(asked.map(({ pages }) => pages)).toEqual([
    ['a.5:0-1', 'a.5:2-3', 'a.5:4-7', 'a.6', 'a.0', 'a.7'],
    ['a.8', 'a.4', 'a.9', 'a.10'],
  ]);
  asked[0].answer();
  await settle();
  expect(asked[2].pages[0]).toBe('a.1');
});

test('a track that sounds later is read behind the playhead, and about the ends of the loop: those pages are brought too', () => {
  const { feeder, asked } = setUp(5 * PAGE_FRAMES + 100);
  feeder.playing();
  feeder.setLoop({ start: 3 * PAGE_FRAMES + 100, end: 7 * PAGE_FRAMES - 9000 });
  feeder.need([recording('a', 20)], { behind: 4832, ahead: 4832 });
  // At the playhead, what follows to the end of the loop and a little beyond, and again from before its start.
  expect(asked.flatMap(({ pages }) => pages)).toEqual([
    ...['a.4:7-7', 'a.5:0-2', 'a.5:3-4', 'a.5:5-7', 'a.6'],
    ...['a.7', 'a.2', 'a.3', 'a.8', 'a.9', 'a.10'],
  ]);
});

test('what is heard next of all recordings comes before anything later of any', () => {
  const { feeder, asked } = setUp();
  feeder.need([recording('a', 3), recording('b', 3)]);
  expect(asked[0].pages).toEqual(['a.0:0-1', 'b.0:0-1', 'a.0:2-3', 'b.0:2-3', 'a.0:4-7', 'b.0:4-7', 'a.1', 'b.1']);
});

test('where a request fails each of its pages is asked for by itself; of a recording that is damaged the others come last', async () => {
  const { feeder, asked, errors, settle } = setUp(0, 60);
  const [bad, good] = [recording('a', 4), recording('b', 4)];
  const refusal = Response.json({ error: { message: '“a” is damaged.', kept: 'Add it again.' } }, { status: 500 });
  feeder.playing();
  feeder.need([bad, good]);
  asked[0].answer(500);
  await settle();
  // The first page of `a` cannot be had.
  for (let i = 1; i < asked.length; i++) {
    asked[i].answer(asked[i].pages.some((page) => page.startsWith('a.0')) ? refusal.clone() : 200);
    await settle();
    await settle();
  }
  const later = asked.slice(2).map(({ pages }) => pages);
  expect(later.slice(0, 4).flat()).toEqual(['a.0', 'b.0', 'b.1', 'a.1']);
  expect([0, 1, 2, 3].map((page) => [hasPage(bad, page), hasPage(good, page)])).toEqual([
    [false, true],
    [true, true],
    [true, true],
    [true, true],
  ]);
  expect(errors).toEqual(['Some of the sound could not be loaded: “a” is damaged. Add it again.']);
});

test('what arrives is in the table, with the progress; a recording that is known is not asked for again', async () => {
  const { feeder, asked, progress, answerAll } = setUp();
  const fed = recording('a', 2, { channels: 2 });
  feeder.need([fed]);
  feeder.need([fed]);
  expect(asked).toHaveLength(1);
  expect(hasPage(fed, 0)).toBe(false);
  await answerAll();
  expect(new Set(new Int32Array(fed.table))).toEqual(
    new Set(Array.from({ length: 2 * 2 * PIECES_OF_PAGE }, (_, slot) => slot + 1)),
  );
  expect(progress[progress.length - 1]).toBe(1);
});

test('a recording that the song no longer has is forgotten, also while it is on its way; its slots are free', async () => {
  const clock = jest.spyOn(performance, 'now').mockReturnValue(0);
  const { feeder, answerAll, asked } = setUp(0, 2);
  const [gone, here] = [recording('a', 2), recording('b', 2)];
  feeder.need([gone]);
  asked[0].answer();
  feeder.need([here]);
  await answerAll();
  expect(hasPage(gone, 0) || hasPage(gone, 1)).toBe(false);
  clock.mockReturnValue(1000);
  // It looks again by itself, though nothing has played yet.
  await new Promise((done) => setTimeout(done, 300));
  await answerAll();
  expect(hasPage(here, 0) && hasPage(here, 1)).toBe(true);
  clock.mockRestore();
});

test('a track that is muted costs no transport; once it is let in it comes before what is far ahead of the others', async () => {
  const { feeder, asked, answerAll } = setUp(0, 12);
  const [heard, muted] = [recording('a', 40), recording('b', 40, { isHeard: false })];
  feeder.need([heard, muted]);
  feeder.playing();
  await answerAll();
  expect(asked.some(({ pages }) => pages.some((page) => page.startsWith('b')))).toBe(false);
  const before = asked.length;
  feeder.need([heard, { ...muted, isHeard: true }]);
  expect(asked[before]?.pages[0]).toBe('b.0:0-1');
});

test('what was heard a moment ago gives its room away only when the audio thread has let go of it', async () => {
  const clock = { now: 1000 };
  const time = jest.spyOn(performance, 'now').mockImplementation(() => clock.now);
  const { feeder, answerAll } = setUp(0, 12);
  const [before, after] = [recording('a', 10), recording('b', 10)];
  feeder.need([before]);
  feeder.playing();
  await answerAll();
  feeder.need([{ ...before, isHeard: false }, after]);
  await answerAll();
  expect([hasPage(before, 0), hasPage(before, 9), hasPage(after, 1)]).toEqual([true, true, true]);
  expect(hasPage(after, 5)).toBe(false);
  // Its slots are free then, and are taken when they have rested.
  for (let look = 0; look < 3; look++) {
    clock.now += 250;
    feeder.bring();
    await answerAll();
  }
  expect([hasPage(before, 0), hasPage(after, 5)]).toEqual([false, true]);
  time.mockRestore();
});

test('a seek asks for its goal at once, before the audio thread has told that it is there', async () => {
  const { feeder, asked, answerAll } = setUp(0, 12);
  feeder.need([recording('a', 40)]);
  feeder.playing();
  await answerAll();
  const before = asked.length;
  feeder.seek(30 * PAGE_FRAMES + 5);
  expect(asked[before].pages[0]).toBe('a.30:0-1');
});

test('of the page in which the song stands what was passed comes last', async () => {
  const { feeder, asked, answerAll } = setUp(5 * PAGE_FRAMES + 3 * PIECE_FRAMES + 100);
  feeder.playing();
  feeder.need([recording('a', 8), recording('b', 8)]);
  await answerAll();
  const order = asked.flatMap(({ pages }) => pages);
  expect(order.slice(0, 4)).toEqual(['a.5:3-4', 'b.5:3-4', 'a.5:5-6', 'b.5:5-6']);
  expect(order.slice(-2)).toEqual(['a.5:0-2', 'b.5:0-2']);
});

test('a request that is cut short in the middle of a page keeps what came, and what did not is asked for again', async () => {
  const { feeder, asked, errors, settle } = setUp();
  const fed = recording('a', 1);
  shown = 3;
  feeder.need([fed]);
  asked[0].answer();
  await settle();
  shown = Infinity;
  expect([0, 1, 2, 3].map((piece) => hasPiece(fed, piece))).toEqual([true, true, true, false]);
  await settle();
  expect(asked[1].pages).toEqual(['a.0:3-7']);
  asked[1].answer();
  await settle();
  expect(hasPage(fed, 0)).toBe(true);
  expect(errors).toEqual([]);
});

test('what is heard until a seek is taken stays until it is', async () => {
  const at = { frame: 10 * PAGE_FRAMES };
  const { feeder, answerAll } = setUp(() => at.frame, 12);
  const track = recording('a', 40);
  feeder.need([track]);
  feeder.playing();
  await answerAll();
  feeder.seek(30 * PAGE_FRAMES + 5);
  await answerAll();
  expect([10, 11, 12, 30].map((page) => hasPage(track, page))).toEqual([true, true, false, true]);
  at.frame = 30 * PAGE_FRAMES + 5;
  feeder.bring();
  expect([10, 11].map((page) => hasPage(track, page))).toEqual([false, false]);
});

test('before it plays only what lies ahead of where it may start is brought, then everything', async () => {
  const { feeder, progress, answerAll, pagesAsked } = setUp(20 * PAGE_FRAMES);
  feeder.setLoop({ start: 20 * PAGE_FRAMES, end: 40 * PAGE_FRAMES });
  feeder.need([recording('a', 40)]);
  await answerAll();
  expect([...new Set(pagesAsked())].sort((a, b) => a - b)).toEqual([20, 21]);
  expect(progress.at(-1)).toBe(1);
  feeder.playing();
  expect(progress.at(-1)).toBeLessThan(1);
  await answerAll();
  expect(new Set(pagesAsked()).size).toBe(40);
  expect(progress.at(-1)).toBe(1);
});

test('a loop that ends just before the end of a page has the next one too, at which the audio thread looks', async () => {
  const { feeder, answerAll } = setUp(21 * PAGE_FRAMES, 8);
  const fed = recording('a', 40);
  feeder.need([fed]);
  feeder.setLoop({ start: 20 * PAGE_FRAMES, end: 23 * PAGE_FRAMES - 100 });
  feeder.playing();
  await answerAll();
  expect([20, 21, 22, 23].map((page) => hasPage(fed, page))).toEqual([true, true, true, true]);
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
  const many = Array.from({ length: 60 }, (_, i) => recording(`r${i}`, PAGES, { channels: 2 }));

  test('a loop for which there is not room is there page by page, over its end and round again', async () => {
    const clock = { now: 0 };
    const time = jest.spyOn(performance, 'now').mockImplementation(() => clock.now);
    const at = { page: 20 };
    const { feeder, answerAll } = setUp(() => at.page * PAGE_FRAMES);
    const tracks = many.map(({ audioId }) => recording(audioId, PAGES, { channels: 2 }));
    feeder.need(tracks);
    feeder.setLoop({ start: 20 * PAGE_FRAMES, end: 30 * PAGE_FRAMES - 1 });
    feeder.playing();
    const missed: number[] = [];
    for (let step = 0; step < 25; step++) {
      at.page = 20 + (step % 10);
      const next = 20 + ((step + 1) % 10);
      for (let look = 0; look < 2; look++) {
        clock.now += 1000;
        feeder.bring();
        await answerAll();
      }
      for (const page of [at.page, next]) if (tracks.some((fed) => !hasPage(fed, page))) missed.push(page);
    }
    expect(missed).toEqual([]);
    expect(hasPage(tracks[0], 31)).toBe(false);
    time.mockRestore();
  });

  test('what is played is there, on and on and after a jump, and so is the beginning, from which it may start again', async () => {
    const clock = { now: 0 };
    const time = jest.spyOn(performance, 'now').mockImplementation(() => clock.now);
    const at = { page: 0 };
    const { feeder, answerAll } = setUp(() => at.page * PAGE_FRAMES);
    feeder.need(many);
    feeder.playing();
    const missed: number[] = [];
    for (const page of [...Array.from({ length: 40 }, (_, page) => page), 70, 71, 72, 3, 4]) {
      at.page = page;
      // What was let go rests, then there is room.
      for (let look = 0; look < 2; look++) {
        clock.now += 1000;
        feeder.bring();
        await answerAll();
      }
      if (many.some((fed) => !hasPage(fed, page))) missed.push(page);
    }
    expect(missed).toEqual([]);
    expect(hasPage(many[0], 0)).toBe(true);
    expect(hasPage(many[0], 40)).toBe(false);
    time.mockRestore();
  });
});

test('why sound is late is told: a server that is silent, one that is slow, one that refuses, and what was asked for only now', async () => {
  jest.useFakeTimers();
  const { feeder, asked } = setUp();
  const settle = () => jest.advanceTimersByTimeAsync(0);
  feeder.playing();
  feeder.need([recording('a', 20, { channels: 2 })]);
  // 0.384 MB a second is what a stereo track needs.
  expect(feeder.whyLate()).toBe('0.0 of the 0.4 MB a second that it needs came');
  await jest.advanceTimersByTimeAsync(2000);
  expect(feeder.whyLate()).toBe('the server does not answer');
  asked[0].answer();
  await settle();
  expect(feeder.whyLate()).toBe('it was asked for only a moment before');
  asked[1].answer(500);
  await settle();
  expect(feeder.whyLate()).toBe('the server did not give some of it');
});
