import * as z from 'zod';
import { songSchema } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { measureSongBleed } from '@/server/render/measure-song';

const id = z.string().min(1).max(40);
const question = z.strictObject({
  song: songSchema,
  trackId: id,
  sourceId: id,
  range: z.strictObject({ from: z.int().min(0), to: z.int().min(1) }),
});

/** What of one track's recording is heard in that of another one. */
export const POST = handle(async (request) => ({
  bleed: await measureSongBleed(await readJson(request, question), request.signal),
}));
