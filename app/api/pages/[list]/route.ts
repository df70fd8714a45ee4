import { SAMPLE_BITS_HEADER } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import { readPages } from '@/server/audio/mending';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

/** A stereo page has half a megabyte at most. */
const MOST_PAGES = 8;
const PAGE = /^([0-9a-f]{64})\.(\d{1,7})$/;

/** Pages of sound, one after the other as they are named: `RECORDING.PAGE,RECORDING.PAGE …`; a header tells in how many bits each is packed. */
export const GET = handle<{ list: string }>(async (request, { list }) => {
  const pages = decodeURIComponent(list)
    .split(',')
    .map((name) => PAGE.exec(name));
  if (pages.length > MOST_PAGES || !pages.every((page) => page !== null))
    throw new OrvidError(
      'invalid-input',
      `Pages are named by the recording and a whole number from 0, RECORDING.PAGE, with commas between up to ${MOST_PAGES}.`,
    );
  const { bytes, bits, tag } = await readPages(pages.map(([, audioId, page]) => ({ audioId, page: Number(page) })));
  const body = bytes.length === 1 ? bytes[0] : Buffer.concat(bytes);
  const response = keptResponse(request, body, tag, 'application/octet-stream', true);
  response.headers.set(SAMPLE_BITS_HEADER, bits.join());
  return response;
});
export const HEAD = GET;
