import type { ErrorCode } from '@/core/errors';
import { OrvidError } from '@/core/errors';

/** There was no answer, or no whole one. */
export class Unreachable extends OrvidError {
  constructor() {
    super('internal', 'The server cannot be reached.');
  }
}

async function answered(url: string, init: RequestInit): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(url, init);
  } catch {
    throw new Unreachable();
  }
  if (response.ok) return response;
  throw errorOf(await response.json().catch(() => ({})), response.status);
}

/** A request to the server of this application. @throws OrvidError what the server said, or that it cannot be reached */
export async function request<T>(
  method: 'GET' | 'POST' | 'DELETE',
  url: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const response = await answered(url, {
    method,
    signal,
    ...(body !== undefined && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
  });
  try {
    return (await response.json()) as T;
  } catch {
    // The server died in the middle of its answer.
    throw new Unreachable();
  }
}

/**
 * Asks for what takes a while, and hears how far it is meanwhile.
 * @param hear is told from 0 to 1
 * @throws OrvidError as {@link request} does
 */
export async function requestTold<T>(
  url: string,
  body: unknown,
  hear: (progress: number) => void,
  signal: AbortSignal,
): Promise<T> {
  const init = { method: 'POST', signal, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) };
  const response = await answered(url, init);
  type Line = { progress: number } | { value: T } | { error: object };
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let text = '';
  for (;;) {
    const { done, value } = await reader.read().catch(() => {
      throw new Unreachable();
    });
    // The server died before it was done.
    if (done) throw new Unreachable();
    const lines = (text + value).split('\n');
    text = lines.pop()!;
    for (const line of lines.map((one) => JSON.parse(one) as Line)) {
      if ('value' in line) return line.value;
      if ('error' in line) throw errorOf(line, response.status);
      hear(line.progress);
    }
  }
}

/** Bytes of the server of this application. @throws OrvidError as {@link request} does */
export async function requestBytes(url: string, signal: AbortSignal): Promise<Uint8Array> {
  const response = await answered(url, { signal });
  try {
    return new Uint8Array(await response.arrayBuffer());
  } catch {
    throw new Unreachable();
  }
}

/** Bytes of the server of this application, which come packed. @throws OrvidError as {@link request} does */
export async function requestPacked(url: string): Promise<Uint8Array> {
  const { body } = await answered(url, {});
  try {
    return new Uint8Array(await new Response(body!.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer());
  } catch {
    throw new Unreachable();
  }
}

/** The error in an answer of the server. */
export function errorOf(json: unknown, status: number): OrvidError {
  const error = (json as { error?: { code: ErrorCode; message: string; kept?: string } }).error;
  return new OrvidError(
    error?.code ?? 'internal',
    error?.message ?? `The server answered with status ${status}.`,
    error?.kept,
  );
}
