import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { ANALYSIS_VERSION, cutRows, joinRows } from '@/core/measure';
import { crc32Text } from '@/server/audio/checksum';
import { readBandLevels } from '@/server/audio/measured';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

/** What more packing saves is not worth its time. */
const PACKING = { level: 1 };
/** As many recordings are answered for at once. */
const MOST = 32;
const RECORDING = /^[0-9a-f]{64}$/;
const step = z.coerce.number().int().min(0);
const stretchSchema = z.object({
  version: z.string().optional(),
  from: step.default(0),
  to: step.default(Number.MAX_SAFE_INTEGER),
  per: z.coerce.number().int().min(1).max(4096).default(1),
});

/**
 * Levels over time of recordings, named with commas between: of steps `from` to `to` (all there are), in rows of the mean of `per` of them (1), joined as
 * {@link joinRows} does, packed. Kept by the browser for ever under the address that names this version, since a recording never changes.
 */
export const GET = handle<{ list: string }>(async (request, { list }) => {
  const audioIds = decodeURIComponent(list).split(',');
  const asked = stretchSchema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success || audioIds.length > MOST || !audioIds.every((audioId) => RECORDING.test(audioId)))
    throw new OrvidError(
      'invalid-input',
      `Recordings with commas between, up to ${MOST}; from, to: whole steps of 50 ms from 0; per: steps in a row, 1 to 4096.`,
    );
  const { version, per, ...stretch } = asked.data;
  const rows = await Promise.all(audioIds.map(async (audioId) => cutRows(await readBandLevels(audioId), stretch, per)));
  const body = await promisify(gzip)(joinRows(rows), PACKING);
  const isForEver = version === String(ANALYSIS_VERSION);
  return keptResponse(request, body, `${ANALYSIS_VERSION}-${crc32Text(body)}`, 'application/gzip', isForEver);
});
export const HEAD = GET;
