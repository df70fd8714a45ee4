import * as z from 'zod';
import { songSchema } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { measureLevels } from '@/server/render/measure-song';

const question = z.strictObject({
  song: songSchema,
  stripId: z.string().min(1).max(40),
  range: z.strictObject({ from: z.int().min(0), to: z.int().min(1) }),
});

/** Levels of a strip of a song as the page has it, which may not be saved, before its chain and behind what reacts in it. */
export const POST = handle(async (request) => {
  const { rows, ...figures } = await measureLevels(await readJson(request, question), request.signal);
  return { ...figures, rows: Buffer.from(rows).toString('base64') };
});
