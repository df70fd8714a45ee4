import { PagedSamples, PIECE_FRAMES } from '@/core/engine/source';

/**
 * The samples that a page of the browser holds lie in one block of shared memory, cut into slots: a piece of one channel each. A table for each recording
 * tells in which slots its pieces lie. The feeder writes both, the audio thread reads them; nothing is said between them.
 */
const SLOT_BYTES = PIECE_FRAMES * Float32Array.BYTES_PER_ELEMENT;
/** A slot is used again no sooner than this after it was given back, so that the audio thread has surely let go of it. */
const REST_MS = 200;

/** The slots of a block of memory. */
export const slotsOf = (memory: SharedArrayBuffer): Float32Array[] =>
  Array.from(
    { length: Math.floor(memory.byteLength / SLOT_BYTES) },
    (_, slot) => new Float32Array(memory, slot * SLOT_BYTES, PIECE_FRAMES),
  );

/** Slots that a recording needs. */
export const slotsFor = (channels: number, lengthFrames: number) => channels * Math.ceil(lengthFrames / PIECE_FRAMES);

/** A table in which nothing is there yet: for each piece and channel the number of its slot and 1, or 0. */
export const newTable = (channels: number, lengthFrames: number) =>
  new SharedArrayBuffer(4 * Math.max(1, slotsFor(channels, lengthFrames)));

/** A recording in shared memory, as the audio thread reads it. */
export class SharedRecording extends PagedSamples {
  private readonly table: Int32Array;

  constructor(
    channels: 1 | 2,
    lengthFrames: number,
    table: SharedArrayBuffer,
    private readonly slots: readonly Float32Array[],
  ) {
    super(channels, lengthFrames, PIECE_FRAMES);
    this.table = new Int32Array(table);
  }

  protected side(piece: number, channel: 0 | 1): Float32Array | undefined {
    const slot = Atomics.load(this.table, piece * this.channels + channel);
    return slot === 0 ? undefined : this.slots[slot - 1];
  }
}

/** Gives out the slots of a block of memory, and takes them back; memory that was never given out costs nothing. */
export class SlotPool {
  private readonly resting: { slot: number; since: number }[] = [];
  private fresh = 0;

  /** @param limit slots that are given out at most */
  constructor(public limit: number) {}

  /** @returns so many slots, which may hold something old; null where there are not so many */
  reserve(count: number): number[] | null {
    const rested = this.resting[count - 1];
    if (rested && performance.now() - rested.since > REST_MS)
      return this.resting.splice(0, count).map(({ slot }) => slot);
    if (this.fresh + count > this.limit) return null;
    return Array.from({ length: count }, () => this.fresh++);
  }

  /** Takes slots back that nobody is going to read any more. */
  give(slots: readonly number[]): void {
    const since = performance.now();
    this.resting.push(...slots.map((slot) => ({ slot, since })));
  }
}

/** Bytes that are taken from a response at a time. */
const CHUNK_BYTES = 1 << 16;

/**
 * Reads a response into pieces of memory, one after the other, and tells of each that is full, by way of one small buffer that is used again where the browser can do that.
 * @throws Error where it is longer or shorter than the memory
 */
export async function readInto(
  response: Response,
  pieces: readonly Uint8Array[],
  onFull: (index: number) => void = () => undefined,
): Promise<void> {
  const size = pieces.reduce((sum, piece) => sum + piece.length, 0);
  let [piece, at, taken] = [0, 0, 0];
  const put = (chunk: Uint8Array) => {
    if (taken + chunk.length > size) throw new Error('more samples than expected');
    taken += chunk.length;
    for (let from = 0; from < chunk.length;) {
      const run = Math.min(chunk.length - from, pieces[piece].length - at);
      pieces[piece].set(chunk.subarray(from, from + run), at);
      from += run;
      at += run;
      if (at < pieces[piece].length) continue;
      onFull(piece);
      [piece, at] = [piece + 1, 0];
    }
  };
  const { body } = response;
  if (!body) throw new Error('no samples');
  const lending = lendingReader(body);
  if (lending) {
    let buffer = new ArrayBuffer(CHUNK_BYTES);
    for (;;) {
      const { done, value } = await lending.read(new Uint8Array(buffer));
      if (value) put(value);
      if (done || !value) break;
      ({ buffer } = value);
    }
  } else {
    const reader = body.getReader();
    for (let next = await reader.read(); !next.done; next = await reader.read()) put(next.value);
  }
  if (taken < size) throw new Error(`${taken} of ${size} bytes`);
}

/** A reader that fills the buffers that it is lent; null where the browser has none. */
function lendingReader(body: ReadableStream<Uint8Array>): ReadableStreamBYOBReader | null {
  try {
    return body.getReader({ mode: 'byob' });
  } catch {
    return null;
  }
}
