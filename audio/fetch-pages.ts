import { packedBytes, SAMPLE_BITS_HEADER, unpackSamples, type SampleBits } from '@/core/engine/packing/packed-samples';
import { readInto } from './sample-memory';

/** A page of a recording, and where its samples belong: an array for each channel. */
export interface PageRoom {
  audioId: string;
  page: number;
  sides: readonly Float32Array[];
}

const LATER = 'It is asked for again when the server is back.';

/** The server knows the page and says why it cannot give it: asked again it would say the same. */
export class Refusal extends Error {}

/**
 * Fetches pages in one request into the memory that is meant for them.
 * @param onPage hears of each page that is there, in their order, and in how many bits it came
 * @throws Refusal in the server's words; Error where it could not be reached or did not give all
 */
export async function fetchPages(
  pages: readonly PageRoom[],
  onPage: (bits: SampleBits) => void = () => undefined,
): Promise<void> {
  const list = pages.map(({ audioId, page }) => `${audioId}.${page}`).join();
  const response = await fetch(`/api/pages/${list}`, { cache: 'no-store' }).catch(() => {
    throw new Error(`the server cannot be reached. ${LATER}`);
  });
  if (!response.ok) throw await errorOf(response);
  const told = response.headers.get(SAMPLE_BITS_HEADER)?.split(',') ?? [];
  const sides = pages.flatMap((room, page) => {
    const bits = (Number(told[page]) || 32) as SampleBits;
    return room.sides.map((side, c) => ({ side, bits, isLast: c === room.sides.length - 1 }));
  });
  // One after the other comes into the same memory; floats go where they belong at once.
  const packed = new ArrayBuffer(Math.max(0, ...sides.map(({ side, bits }) => roomOf(side, bits))));
  const pieces = sides.map(({ side, bits }) =>
    bits === 32
      ? new Uint8Array(side.buffer, side.byteOffset, side.byteLength)
      : new Uint8Array(packed, 0, packedBytes(side.length, bits)),
  );
  await readInto(response, pieces, (index) => {
    const { side, bits, isLast } = sides[index];
    if (bits !== 32) unpackSamples(pieces[index], bits, side);
    if (isLast) onPage(bits);
  });
}

const roomOf = (side: Float32Array, bits: SampleBits) => (bits === 32 ? 0 : packedBytes(side.length, bits));

/** Why the server does not give a page, and what to do: its own words, or a number. */
async function errorOf(response: Response): Promise<Error> {
  const answer = (await response.json().catch(() => null)) as { error?: { message: string; kept?: string } } | null;
  if (!answer?.error) return new Error(`status ${response.status}. ${LATER}`);
  return new Refusal([answer.error.message, answer.error.kept].filter(Boolean).join(' '));
}
