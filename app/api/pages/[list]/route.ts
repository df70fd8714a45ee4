import { PIECES_OF_PAGE, SAMPLE_BITS_HEADER } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import { readPieces } from '@/server/audio/mending';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

/** As many as eight pages have: a stereo page has half a megabyte at most. */
const MOST_PIECES = 8 * PIECES_OF_PAGE;
const RUN = /^([0-9a-f]{64})\.(\d{1,8})-(\d{1,8})$/;

/** Sound, one piece after the other as they are named: `RECORDING.FIRST-LAST,RECORDING.FIRST-LAST …`; a header tells in how many bits each run is packed. */
export const GET = handle<{ list: string }>(async (request, { list }) => {
  const named = decodeURIComponent(list)
    .split(',')
    .map((name) => RUN.exec(name));
  const runs = named.flatMap((run) => (run ? [{ audioId: run[1], first: Number(run[2]), last: Number(run[3]) }] : []));
  const pieces = runs.reduce((sum, { first, last }) => sum + Math.max(1, last - first + 1), 0);
  if (runs.length < named.length || pieces > MOST_PIECES)
    throw new OrvidError(
      'invalid-input',
      `Pieces are named by the recording and whole numbers from 0, RECORDING.FIRST-LAST, with commas between; up to ${MOST_PIECES} are given at once.`,
    );
  const { bytes, bits, tag } = await readPieces(runs);
  const response = keptResponse(request, bytes, tag, 'application/octet-stream', true);
  response.headers.set(SAMPLE_BITS_HEADER, bits.join());
  return response;
});
export const HEAD = GET;
