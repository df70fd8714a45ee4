import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { eventStream } from '@/server/songs/event-stream';
import { loadSong } from '@/server/songs/store';

export const dynamic = 'force-dynamic';

/** A stream of server-sent events: the edits after the revision that the window has, then everything as it happens. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const since = z.coerce.number().int().min(0).safeParse(new URL(request.url).searchParams.get('since'));
  if (!since.success) throw new OrvidError('invalid-input', 'since: the revision that the window has is missing.');
  await loadSong(songId);
  return new Response(eventStream(songId, since.data, request.signal), {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
});
