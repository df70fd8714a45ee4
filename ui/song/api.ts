import type { ErrorCode } from '@/core/errors';
import { OrvidError } from '@/core/errors';

/** A request to the server of this application. @throws OrvidError what the server said, or that it cannot be reached */
export async function request<T>(method: 'GET' | 'POST' | 'DELETE', url: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(url, {
      method,
      ...(body !== undefined && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    });
  } catch {
    throw new OrvidError('internal', 'The server cannot be reached.');
  }
  const json: unknown = await response.json().catch(() => ({}));
  if (response.ok) return json as T;
  throw errorOf(json, response.status);
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
