import * as z from 'zod';
import { songSchema } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { measureAlignments } from '@/server/render/measure-song';

const question = z.strictObject({
  song: songSchema,
  stripIds: z.array(z.string().min(1).max(40)).min(2).max(16),
  range: z.strictObject({ from: z.int().min(0), to: z.int().min(1) }),
  band: z.strictObject({ lowHz: z.number().min(5), highHz: z.number().max(100000) }).nullable(),
});

/** At which delay and polarity tracks of a song, as the page has it, add up best. */
export const POST = handle(async (request) => ({
  alignments: await measureAlignments(await readJson(request, question), request.signal),
}));
