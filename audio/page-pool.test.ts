import { PagePool, readInto } from './page-pool';

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
  const memory = new SharedArrayBuffer(bytes.length);
  await readInto(responseOf(bytes, chunk, isPlain), memory);
  expect(Buffer.from(new Uint8Array(memory)).equals(Buffer.from(bytes))).toBe(true);
});

test('one that is too short or too long is refused', async () => {
  await expect(readInto(responseOf(numbers(100)), new SharedArrayBuffer(104))).rejects.toThrow('100 of 104 bytes');
  await expect(readInto(responseOf(numbers(108)), new SharedArrayBuffer(104))).rejects.toThrow('more samples');
  await expect(readInto({ body: null } as Response, new SharedArrayBuffer(4))).rejects.toThrow('no samples');
});

test('memory is used again, of its own size alone, and not before the audio thread has let go of it', () => {
  const clock = jest.spyOn(performance, 'now').mockReturnValue(0);
  const pool = new PagePool();
  const [first, other] = [pool.take(1024), pool.take(2048)];
  pool.give(first);
  pool.give(other);
  clock.mockReturnValue(900);
  expect(pool.take(1024)).not.toBe(first);
  clock.mockReturnValue(1100);
  expect(pool.take(2048)).toBe(other);
  expect(pool.take(1024)).toBe(first);
  expect(pool.take(1024)).not.toBe(first);
  clock.mockRestore();
});
