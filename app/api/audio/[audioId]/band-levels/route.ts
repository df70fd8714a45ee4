import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { ANALYSIS_VERSION, cutRows } from '@/core/measure';
import { crc32Text } from '@/server/audio/checksum';
import { readBandLevels } from '@/server/audio/measured';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

/** What more packing saves is not worth its time. */
const PACKING = { level: 3 };
const step = z.coerce.number().int().min(0);
const stretchSchema = z.object({
  version: z.string().optional(),
  from: step.default(0),
  to: step.default(Number.MAX_SAFE_INTEGER),
  per: z.coerce.number().int().min(1).max(4096).default(1),
  packed: z.literal('gzip').optional(),
});

/**
 * Levels over time: of steps `from` to `to` (all there are), in rows of the mean of `per` of them (1), as they are or `packed`. Kept by the browser for ever under the address
 * that names this version, since a recording never changes.
 */
export const GET = handle<{ audioId: string }>(async (request, { audioId }) => {
  const asked = stretchSchema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success)
    throw new OrvidError(
      'invalid-input',
      'from, to: whole steps of 50 ms from 0; per: steps in a row, 1 to 4096; packed: gzip.',
    );
  const { version, per, packed, ...stretch } = asked.data;
  const rows = cutRows(await readBandLevels(audioId), stretch, per);
  const body = packed ? await promisify(gzip)(rows, PACKING) : rows;
  const isForEver = version === String(ANALYSIS_VERSION);
  return keptResponse(request, body, `${ANALYSIS_VERSION}-${crc32Text(body)}`, 'application/octet-stream', isForEver);
});
export const HEAD = GET;
