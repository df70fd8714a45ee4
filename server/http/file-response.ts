import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';

/** The bytes that a Range header asks for (RFC 9110, 14.2): one range; null for all of them, `unsatisfiable` for none that there are. */
export function rangeOf(header: string | null, size: number): { start: number; end: number } | 'unsatisfiable' | null {
  const parts = /^bytes=(\d*)-(\d*)$/.exec(header ?? '');
  if (!parts || (parts[1] === '' && parts[2] === '')) return null;
  const last = size - 1;
  const [start, end] =
    parts[1] === ''
      ? [Math.max(0, size - Number(parts[2])), last]
      : [Number(parts[1]), parts[2] === '' ? last : Number(parts[2])];
  if (start > last || end < start) return 'unsatisfiable';
  return { start, end: Math.min(end, last) };
}

/** A file that never changes under its address, whole or in part. A HEAD request does not open it. */
export async function fileResponse(request: Request, file: string, headers: Record<string, string>): Promise<Response> {
  const { size } = await stat(file);
  const range = rangeOf(request.headers.get('range'), size);
  const common = { ...headers, 'accept-ranges': 'bytes' };
  if (range === 'unsatisfiable')
    return new Response(null, { status: 416, headers: { ...common, 'content-range': `bytes */${size}` } });
  const { start, end } = range ?? { start: 0, end: size - 1 };
  const about = {
    ...common,
    'content-length': String(end - start + 1),
    ...(range && { 'content-range': `bytes ${start}-${end}/${size}` }),
  };
  const body =
    request.method === 'HEAD' ? null : (Readable.toWeb(createReadStream(file, { start, end })) as ReadableStream);
  return new Response(body, { status: range ? 206 : 200, headers: about });
}

/** Bytes that never change under their address, with a tag: a browser that has them is told so. */
export function keptResponse(
  request: Request,
  body: Uint8Array | string,
  tag: string,
  type: string,
  isForEver: boolean,
): Response {
  const headers = {
    'content-type': type,
    etag: `"${tag}"`,
    'cache-control': isForEver ? 'private, max-age=31536000, immutable' : 'private, no-cache',
  };
  if (request.headers.get('if-none-match')?.includes(`"${tag}"`)) return new Response(null, { status: 304, headers });
  return new Response(request.method === 'HEAD' ? null : (body as Uint8Array<ArrayBuffer>), {
    headers: { ...headers, 'content-length': String(Buffer.byteLength(body)) },
  });
}

/** Headers of a page that has all it needs inside: it is no part of the application, reaches nothing, and nothing of it. */
export const pageOfItsOwn = (): Record<string, string> => ({
  'content-type': 'text/html; charset=utf-8',
  'content-security-policy':
    "sandbox allow-scripts; default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:; frame-ancestors 'none'",
  'cache-control': 'no-store',
});
