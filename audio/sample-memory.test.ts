import { PIECE_FRAMES } from '@/core/engine';
import { newTable, readInto, SharedRecording, SlotPool, slotsOf } from './sample-memory';

const responseOf = (bytes: Uint8Array<ArrayBuffer>, chunk = bytes.length, isPlain = false) => {
  let at = 0;
  const body = new ReadableStream({
    ...(isPlain ? {} : { type: 'bytes' as const }),
    pull(controller) {
      if (at < bytes.length) controller.enqueue(bytes.slice(at, (at += chunk)));
      else {
        controller.close();
        controller.byobRequest?.respond(0);
      }
    },
  } as UnderlyingByteSource);
  return { body } as Response;
};
const numbers = (length: number) => Uint8Array.from({ length }, (_, n) => n % 251);

test.each([
  ['in pieces of its own size', 200_000, false],
  ['in small pieces', 777, false],
  ['by a browser without buffers to be lent', 777, true],
])('a response is read to the last byte: %s', async (_, chunk, isPlain) => {
  const bytes = numbers(200_000);
  const pieces = [new Uint8Array(new SharedArrayBuffer(60_000)), new Uint8Array(new SharedArrayBuffer(140_000))];
  await readInto(responseOf(bytes, chunk, isPlain), pieces);
  expect(Buffer.concat(pieces).equals(Buffer.from(bytes))).toBe(true);
});

test('one that is too short or too long is refused', async () => {
  await expect(readInto(responseOf(numbers(100)), [new Uint8Array(104)])).rejects.toThrow('100 of 104 bytes');
  await expect(readInto(responseOf(numbers(108)), [new Uint8Array(104)])).rejects.toThrow('more samples');
  await expect(readInto({ body: null } as Response, [new Uint8Array(4)])).rejects.toThrow('no samples');
});

test('slots are used again, and not before the audio thread has let go of them; all or none are given', () => {
  const clock = jest.spyOn(performance, 'now').mockReturnValue(0);
  const pool = new SlotPool(3);
  const first = pool.reserve(2)!;
  expect(pool.reserve(2)).toBeNull();
  const [last] = pool.reserve(1)!;
  expect(new Set([...first, last])).toEqual(new Set([0, 1, 2]));
  pool.give(first);
  clock.mockReturnValue(150);
  expect(pool.reserve(1)).toBeNull();
  clock.mockReturnValue(250);
  expect(pool.reserve(2)).toEqual(first);
  clock.mockRestore();
});

test('a recording reads what lies in the slots that its table names, and nothing where it names none', () => {
  const slots = slotsOf(new SharedArrayBuffer(3 * 4 * PIECE_FRAMES));
  slots.forEach((slot, i) => slot.fill(i + 1));
  const length = PIECE_FRAMES + 10;
  const table = newTable(2, length);
  const recording = new SharedRecording(2, length, table, slots);
  const read = (frame: number) => {
    const [left, right] = [new Float64Array(4), new Float64Array(4)];
    recording.read(frame, 4, left, right);
    return [...left, ...right];
  };
  expect(recording.has(0, 1)).toBe(false);
  // The second piece: its left in the third slot, its right in the first.
  new Int32Array(table).set([3, 1], 2);
  expect(recording.has(PIECE_FRAMES, 10)).toBe(true);
  expect(recording.has(PIECE_FRAMES - 1, 2)).toBe(false);
  expect(read(PIECE_FRAMES - 2)).toEqual([0, 0, 3, 3, 0, 0, 1, 1]);
  expect(read(length - 2)).toEqual([3, 3, 0, 0, 1, 1, 0, 0]);
});
