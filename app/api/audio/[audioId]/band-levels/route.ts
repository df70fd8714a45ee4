import { readBandLevels } from '@/server/audio/measured';
import { handle } from '@/server/http/handle';

/** Not kept by the browser: what an older version measured is measured again under the same address. */
export const GET = handle<{ audioId: string }>(
  async (_, { audioId }) =>
    new Response((await readBandLevels(audioId)) as Uint8Array<ArrayBuffer>, {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, no-cache' },
    }),
);
