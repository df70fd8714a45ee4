import * as z from 'zod';
import { songSchema } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { freeze } from '@/server/render/frozen-track';

const question = z.strictObject({
  song: songSchema,
  trackId: z.string().min(1).max(40),
  lengthFrames: z.int().min(1),
});

/** A track of a song as the page has it, which may not be saved, rendered through its chain. */
export const POST = handle(async (request) => freeze(await readJson(request, question), request.signal));
