import { renderOrderSchema } from '@/core/renders';
import { handle, readJson } from '@/server/http/handle';
import { finishedOf } from '@/server/render/finished';
import { startRenders } from '@/server/render/render-job';

type Params = { songId: string };

/** What was made of the song. */
export const GET = handle<Params>(async (_, { songId }) => ({ files: await finishedOf(songId) }));

export const POST = handle<Params>(async (request, { songId }) => ({
  jobs: await startRenders(songId, await readJson(request, renderOrderSchema)),
}));
