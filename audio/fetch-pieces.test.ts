import { packSamples, type SampleBits } from '@/core/engine';
import { fetchPieces } from './fetch-pieces';

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});

/** Whole numbers of few bits, another row for each start. */
const samples = (length: number, start: number) =>
  Float32Array.from({ length }, (_, n) => (((start + 37 * n) % 60000) - 30000) / 32768);

test.each([[[16, 24]], [[32, 16]], [[24, 32]], [null]] as [SampleBits[] | null][])(
  'pieces that come in %p bits, in one answer, are unpacked where they belong, each told of in its turn',
  async (bits) => {
    const lengths = [1000, 333, 70];
    const wanted = lengths.map((length, page) => [samples(length, page), samples(length, 100 + page)]);
    const bitsOf = (room: number) => bits?.[room] ?? 32;
    const roomOf = [0, 0, 1];
    const answer = Buffer.concat(
      wanted.flatMap((sides, page) => sides.map((side) => packSamples(side, bitsOf(roomOf[page]))!)),
    );
    const asked: string[] = [];
    globalThis.fetch = (url) => {
      asked.push(url as string);
      return Promise.resolve(new Response(answer, bits ? { headers: { 'orvid-sample-bits': bits.join() } } : {}));
    };
    const memory = new SharedArrayBuffer(4 * 3 * 2 * 1000);
    const pieces = lengths.map((length, piece) =>
      [0, 1].map((c) => new Float32Array(memory, 4 * 1000 * (2 * piece + c), length)),
    );
    // Two of the same page, in as many bits, then one of another.
    const rooms = [
      { audioId: 'ab', first: 3, sides: pieces.slice(0, 2) },
      { audioId: 'cd', first: 8, sides: pieces.slice(2) },
    ];
    const told: SampleBits[] = [];
    await fetchPieces(rooms, (came) => {
      expect(pieces[told.length].map((side) => [...side])).toEqual(wanted[told.length].map((side) => [...side]));
      told.push(came);
    });
    expect(told).toEqual(lengths.map((_, piece) => bitsOf(roomOf[piece])));
    expect(asked).toEqual(['/api/pages/ab.3-4,cd.8-8']);
  },
);
