import { readShortSpectra } from '@/server/audio/short-spectra';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string }>(
  async (_, { audioId }) =>
    new Response((await readShortSpectra(audioId)) as Uint8Array<ArrayBuffer>, {
      headers: {
        'content-type': 'application/octet-stream',
        'cache-control': 'private, max-age=31536000, immutable',
      },
    }),
);
