import { shownError } from './handle';

/** A line of an answer that takes a while: how far it is, from 0 to 1; in the end what came of it, or why nothing did. */
export type ToldLine<T> =
  { progress: number } | { value: T } | { error: { code: string; message: string; kept?: string } };

/**
 * An answer that says how far it is while it is worked out: a line of JSON each time.
 * @param request what is answered
 * @param work ends when its signal aborts, which it does when whoever asked is gone
 */
export function told<T>(
  { signal, url }: Request,
  work: (signal: AbortSignal, report: (step: string, progress: number) => void) => Promise<T>,
): Response {
  const left = new AbortController();
  const end = AbortSignal.any([signal, left.signal]);
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    async start(controller) {
      const write = (line: ToldLine<T>) => {
        if (!end.aborted) controller.enqueue(encoder.encode(`${JSON.stringify(line)}\n`));
      };
      try {
        write({ value: await work(end, (_, progress) => write({ progress })) });
      } catch (thrown) {
        if (end.aborted) return;
        write({ error: shownError(thrown, url).toJSON() });
      }
      if (!end.aborted) controller.close();
    },
    cancel: (reason) => left.abort(reason),
  });
  return new Response(body, { headers: { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' } });
}
