import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { measureSongPart } from '@/server/render/measure-song';

const query = z.strictObject({
  strip: z.string().min(1).max(40),
  from: z.coerce.number().min(0).optional(),
  to: z.coerce.number().min(0).optional(),
  byRange: z.literal('true').optional(),
});

export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const asked = query.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success)
    throw new OrvidError('invalid-input', `What to measure was not understood: ${asked.error.issues[0].message}.`);
  const { strip, from, to, byRange } = asked.data;
  return measureSongPart(songId, strip, { from, to }, request.signal, byRange !== undefined);
});
