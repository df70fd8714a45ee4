import { ANALYSIS_VERSION } from '@/core/measure';
import { crc32Text } from '@/server/audio/checksum';
import { readAnalysis } from '@/server/audio/measured';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

/** Kept by the browser for ever under the address that names this version, since a recording never changes. */
export const GET = handle<{ audioId: string }>(async (request, { audioId }) => {
  const body = JSON.stringify(await readAnalysis(audioId));
  const isForEver = new URL(request.url).searchParams.get('version') === String(ANALYSIS_VERSION);
  return keptResponse(request, body, `${ANALYSIS_VERSION}-${crc32Text(body)}`, 'application/json', isForEver);
});
export const HEAD = GET;
