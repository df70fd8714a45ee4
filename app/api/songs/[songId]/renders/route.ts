import { z } from 'zod';
import { RENDER_FORMATS } from '@/core/formats';
import { handle, readJson } from '@/server/http/handle';
import { startRender } from '@/server/render/render-job';

const order = z.strictObject({ format: z.enum(RENDER_FORMATS) });

export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const { format } = await readJson(request, order);
  return { job: await startRender(songId, format) };
});
