import { packedBytes, SAMPLE_BITS_HEADER, unpackSamples, type SampleBits } from '@/core/engine/packing/packed-samples';
import { readInto } from './sample-memory';

/** Pieces of a page of a recording, and where their samples belong. */
export interface PieceRoom {
  audioId: string;
  /** The number of the first one; the others follow it. */
  first: number;
  /** For each piece an array for each channel. */
  sides: readonly (readonly Float32Array[])[];
}

const LATER = 'It is asked for again when the server is back.';

/** The server knows what is asked for and says why it cannot give it: asked again it would say the same. */
export class Refusal extends Error {}

/**
 * Fetches pieces in one request into the memory that is meant for them.
 * @param onPiece hears of each piece that is there, in their order, and in how many bits it came
 * @throws Refusal in the server's words; Error where it could not be reached or did not give all
 */
export async function fetchPieces(
  rooms: readonly PieceRoom[],
  onPiece: (bits: SampleBits) => void = () => undefined,
): Promise<void> {
  const list = rooms.map(({ audioId, first, sides }) => `${audioId}.${first}-${first + sides.length - 1}`).join();
  const response = await fetch(`/api/pages/${list}`, { cache: 'no-store' }).catch(() => {
    throw new Error(`the server cannot be reached. ${LATER}`);
  });
  if (!response.ok) throw await errorOf(response);
  const told = response.headers.get(SAMPLE_BITS_HEADER)?.split(',') ?? [];
  const sides = rooms.flatMap((room, i) => {
    const bits = (Number(told[i]) || 32) as SampleBits;
    return room.sides.flatMap((piece) => piece.map((side, c) => ({ side, bits, isLast: c === piece.length - 1 })));
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
    if (isLast) onPiece(bits);
  });
}

const roomOf = (side: Float32Array, bits: SampleBits) => (bits === 32 ? 0 : packedBytes(side.length, bits));

/** Why the server does not give a piece, and what to do: its own words, or a number. */
async function errorOf(response: Response): Promise<Error> {
  const answer = (await response.json().catch(() => null)) as { error?: { message: string; kept?: string } } | null;
  if (!answer?.error) return new Error(`status ${response.status}. ${LATER}`);
  return new Refusal([answer.error.message, answer.error.kept].filter(Boolean).join(' '));
}
