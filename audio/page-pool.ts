/** A slot is used again no sooner than this after it was given back, so that the audio thread has surely let go of it. */
const REST_MS = 1000;

/** Shared memory for pages of samples that is used again and again: what a page holds does not wait for anyone to clear up. */
export class PagePool {
  private readonly resting = new Map<number, { buffer: SharedArrayBuffer; since: number }[]>();

  /** @returns memory of so many bytes; it may hold something old */
  take(bytes: number): SharedArrayBuffer {
    const rested = this.resting.get(bytes);
    if (rested && rested.length > 0 && performance.now() - rested[0].since > REST_MS) return rested.shift()!.buffer;
    return new SharedArrayBuffer(bytes);
  }

  /** Gives memory back that nobody is going to read any more. */
  give(buffer: SharedArrayBuffer): void {
    const list = this.resting.get(buffer.byteLength) ?? [];
    list.push({ buffer, since: performance.now() });
    this.resting.set(buffer.byteLength, list);
  }
}

/** Bytes that are taken from a response at a time. */
const CHUNK_BYTES = 1 << 16;

/**
 * Reads a response into memory, by way of one small buffer that is used again where the browser can do that.
 * @throws Error where it is longer or shorter than the memory
 */
export async function readInto(response: Response, memory: SharedArrayBuffer): Promise<void> {
  const bytes = new Uint8Array(memory);
  let at = 0;
  const put = (chunk: Uint8Array) => {
    if (at + chunk.length > bytes.length) throw new Error('more samples than expected');
    bytes.set(chunk, at);
    at += chunk.length;
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
  if (at < bytes.length) throw new Error(`${at} of ${bytes.length} bytes`);
}

/** A reader that fills the buffers that it is lent; null where the browser has none. */
function lendingReader(body: ReadableStream<Uint8Array>): ReadableStreamBYOBReader | null {
  try {
    return body.getReader({ mode: 'byob' });
  } catch {
    return null;
  }
}
