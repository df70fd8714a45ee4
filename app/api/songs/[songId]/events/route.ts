import { z } from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { subscribe, type SongEvent } from '@/server/songs/events';
import { editsSince, loadSong } from '@/server/songs/store';

export const dynamic = 'force-dynamic';

const HEARTBEAT_MS = 15000;
/** Events that wait for a window that does not read. */
const MOST_WAITING = 1000;

/** A stream of server-sent events: the edits after the revision that the window has, then everything as it happens. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const since = z.coerce.number().int().min(0).safeParse(new URL(request.url).searchParams.get('since'));
  if (!since.success) throw new OrvidError('invalid-input', 'since: the revision that the window has is missing.');
  await loadSong(songId);
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const write = (text: string) => {
        // A window that does not read is let go of: it comes again, and is told what it missed.
        if ((controller.desiredSize ?? 0) > -MOST_WAITING) return controller.enqueue(encoder.encode(text));
        stop();
        controller.error(new Error('the window does not read'));
      };
      const send = (event: SongEvent) => write(`data: ${JSON.stringify(event)}\n\n`);
      const unsubscribe = subscribe(songId, send);
      const heartbeat = setInterval(() => write(': still here\n\n'), HEARTBEAT_MS);
      stop = () => {
        unsubscribe();
        clearInterval(heartbeat);
      };
      request.signal.addEventListener('abort', stop);
      controller.enqueue(encoder.encode(': listening\n\n'));
      (await editsSince(songId, since.data)).forEach(send);
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
});
