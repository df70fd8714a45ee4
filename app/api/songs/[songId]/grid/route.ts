import { handle } from '@/server/http/handle';
import { measureGrid } from '@/server/render/measure-song';

/** The tempo of a song by its recordings, and how sure that is; null where too little begins in them. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => ({
  found: await measureGrid(songId, request.signal),
}));
