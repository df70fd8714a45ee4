import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { discard } from '@/server/audio/store';
import { handle } from '@/server/http/handle';
import { receiveUpload } from '@/server/import/import-track';
import type { FittedFile } from '@/server/render/fit-file';
import { runInWorker } from '@/server/workers/pool';

const asked = z.object({ name: z.string().min(1).max(255), rate: z.coerce.number().min(8000).max(384000) });
/** Sections, and impulse responses, are short. */
const MOST_BYTES = 32 * 2 ** 20;

/** Bands that do what a file says: sections as CSV, made for `?rate=`, or an impulse response as a sound file; `?name=` is what it is called. */
export const POST = handle(async (request) => {
  const given = asked.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!given.success) throw new OrvidError('invalid-input', 'name, rate: a name, and a sample rate in Hz.');
  const { name, rate } = given.data;
  const limit = { bytes: MOST_BYTES, setting: 'Nothing' };
  const file = await receiveUpload(request.body, name, request.signal, limit);
  try {
    return await runInWorker<FittedFile>('fit', { file, name, rateHz: rate }, request.signal);
  } finally {
    await discard(file);
  }
});
