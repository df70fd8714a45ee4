import { Readable } from 'node:stream';
import * as z from 'zod';
import { asOrvidError, isOfStorage, OrvidError, type ErrorCode } from '@/core/errors';
import { config } from '../config';
import { log, logFile } from '../log';
import { checkOrigin } from './origin';

const STATUS: Record<ErrorCode, number> = {
  'invalid-input': 400,
  'not-found': 404,
  'unreadable-audio': 422,
  'too-large': 413,
  forbidden: 403,
  conflict: 409,
  damaged: 500,
  cancelled: 499,
  'disk-full': 507,
  unwritable: 503,
  'disk-failing': 503,
  'database-damaged': 500,
  internal: 500,
};

type Context<P> = { params: Promise<P> };

/** What is said of an error; what only the log can tell is there. */
export function shownError(thrown: unknown, url: string): OrvidError {
  const error = asOrvidError(thrown);
  if (isOfStorage(error)) log.error({ error: thrown, url }, 'request failed');
  return error.code === 'internal'
    ? new OrvidError('internal', `The server could not do this. ${logFile() ?? 'Its terminal'} says why.`)
    : error;
}

/** A route handler that checks where the request comes from, and turns errors into answers. */
export function handle<P>(work: (request: Request, params: P) => Promise<Response | object | void>) {
  return async (request: Request, context: Context<P>): Promise<Response> => {
    try {
      const refusal = checkOrigin(request.headers);
      if (refusal) throw new OrvidError('forbidden', refusal);
      const result = await work(request, await context.params);
      return result instanceof Response
        ? result
        : Response.json(result ?? {}, { headers: { 'cache-control': 'no-store' } });
    } catch (thrown) {
      // Whoever asked is gone: nobody waits for an answer.
      const { aborted, reason } = request.signal;
      if (aborted && (thrown === reason || (thrown as Error).name === 'AbortError'))
        return new Response(null, { status: STATUS.cancelled });
      const shown = shownError(thrown, request.url);
      // What was not read of an upload takes its connection with it: nobody is to send the next request that way.
      const isUpload = request.headers.get('content-type') === 'application/octet-stream';
      const headers = isUpload ? { connection: 'close' } : undefined;
      return Response.json({ error: shown.toJSON() }, { status: STATUS[shown.code], headers });
    }
  };
}

/** A JSON body that follows a schema. @throws OrvidError `too-large`, `invalid-input` with the field */
export async function readJson<T>(request: Request, schema: z.ZodType<T>): Promise<T> {
  const { maxJsonBytes } = config();
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  const body = request.body ? Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0]) : [];
  for await (const chunk of body as AsyncIterable<Uint8Array>) {
    bytes += chunk.length;
    if (bytes > maxJsonBytes)
      throw new OrvidError('too-large', `The request is larger than ${Math.round(maxJsonBytes / 1024)} KiB.`);
    chunks.push(chunk);
  }
  let json: unknown;
  try {
    json = JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw new OrvidError('invalid-input', 'The request is not JSON.');
  }
  const parsed = schema.safeParse(json);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new OrvidError(
    'invalid-input',
    `${issue.path.join('.') || 'request'}: ${issue.message}`,
    'Nothing was changed.',
  );
}
