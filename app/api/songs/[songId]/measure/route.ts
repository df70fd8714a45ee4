import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { MOST_BUSES, MOST_TRACKS } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { told } from '@/server/http/told';
import { measureSongPart, measureSongStrips } from '@/server/render/measure-song';

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

const wanted = z.strictObject({
  strips: z
    .array(z.string().min(1).max(40))
    .min(1)
    .max(MOST_TRACKS + MOST_BUSES + 1),
});

/** Figures of strips over the whole song, as many as can be had in one render; says how far it is meanwhile. */
export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const { strips } = await readJson(request, wanted);
  return told(request, (signal, report) => measureSongStrips(songId, strips, signal, report));
});
