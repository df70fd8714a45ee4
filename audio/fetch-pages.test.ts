import { packSamples, type SampleBits } from '@/core/engine';
import { fetchPages } from './fetch-pages';

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});

/** Whole numbers of few bits, another row for each start. */
const samples = (length: number, start: number) =>
  Float32Array.from({ length }, (_, n) => (((start + 37 * n) % 60000) - 30000) / 32768);

test.each([[[16, 24, 32]], [[32, 16, 24]], [null]] as [SampleBits[] | null][])(
  'pages that come in %p bits, in one answer, are unpacked where they belong, each told of in its turn',
  async (bits) => {
    const lengths = [1000, 333, 70];
    const wanted = lengths.map((length, page) => [samples(length, page), samples(length, 100 + page)]);
    const bitsOf = (page: number) => bits?.[page] ?? 32;
    const answer = Buffer.concat(
      wanted.flatMap((sides, page) => sides.map((side) => packSamples(side, bitsOf(page))!)),
    );
    const asked: string[] = [];
    globalThis.fetch = (url) => {
      asked.push(url as string);
      return Promise.resolve(new Response(answer, bits ? { headers: { 'orvid-sample-bits': bits.join() } } : {}));
    };
    const memory = new SharedArrayBuffer(4 * 3 * 2 * 1000);
    const rooms = lengths.map((length, page) => ({
      audioId: 'ab',
      page,
      sides: [0, 1].map((c) => new Float32Array(memory, 4 * 1000 * (2 * page + c), length)),
    }));
    const told: SampleBits[] = [];
    await fetchPages(rooms, (came) => {
      const { sides } = rooms[told.length];
      expect(sides.map((side) => [...side])).toEqual(wanted[told.length].map((side) => [...side]));
      told.push(came);
    });
    expect(told).toEqual(lengths.map((_, page) => bitsOf(page)));
    expect(asked).toEqual(['/api/pages/ab.0,ab.1,ab.2']);
  },
);
