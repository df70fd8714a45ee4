import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { STEPS_PER_SECOND } from '@/core/measure';
import { pictureOverTime } from '@/server/audio/over-time';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';
import { crc32Text } from '@/server/audio/checksum';

/** No picture is of more than a minute. */
const MOST_STEPS = 60 * STEPS_PER_SECOND;
const step = z.coerce.number().int().min(0);
const hz = z.coerce.number().min(10).max(96000);
const size = z.coerce.number().int().min(8).max(512);
const pictureSchema = z
  .object({ from: step, to: step, low: hz, high: hz, rows: size, columns: size })
  .refine(({ from, to, low, high }) => to > from && to - from <= MOST_STEPS && high > low);

/** A picture of a recording's spectrum over time: a byte for each column of each row, see `spectrumOverTime`. */
export const GET = handle<{ audioId: string }>(async (request, { audioId }) => {
  const asked = pictureSchema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success)
    throw new OrvidError(
      'invalid-input',
      'from, to: whole steps of 50 ms, a minute at most; low, high: 10 to 96000 Hz; rows, columns: 8 to 512.',
    );
  const { from, to, low, high, ...shape } = asked.data;
  const picture = await pictureOverTime(audioId, { from, to }, { lowHz: low, highHz: high }, shape, request.signal);
  return keptResponse(request, picture, crc32Text(picture), 'application/octet-stream', true);
});
export const HEAD = GET;
