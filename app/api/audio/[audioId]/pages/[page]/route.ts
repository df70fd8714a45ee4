import { z } from 'zod';
import { OrvidError } from '@/core/errors';
import { readPage } from '@/server/audio/mending';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string; page: string }>(async (_, { audioId, page }) => {
  const number = z.coerce.number().int().min(0).safeParse(page);
  if (!number.success) throw new OrvidError('invalid-input', 'page: a page is a whole number from 0.');
  const bytes = await readPage(audioId, number.data);
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=31536000, immutable' },
  });
});
