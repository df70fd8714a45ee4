import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { handle, readJson } from '@/server/http/handle';
import { historyOf, nameMoment } from '@/server/songs/history';

type Params = { songId: string };

const revision = z.coerce.number().int().min(0);

/** The journal in words, the latest first; `?until=` is the last change that is told. */
export const GET = handle<Params>(async (request, { songId }) => {
  const until = new URL(request.url).searchParams.get('until');
  const parsed = revision.optional().safeParse(until ?? undefined);
  if (!parsed.success) throw new OrvidError('invalid-input', 'until: it must be a whole number from 0.');
  return historyOf(songId, parsed.data);
});

const moment = z.strictObject({ revision: z.int().min(0), name: z.string().trim().max(120) });

/** Gives a moment a name; an empty one takes it away. */
export const POST = handle<Params>(async (request, { songId }) => {
  const { revision: at, name } = await readJson(request, moment);
  await nameMoment(songId, at, name);
});
