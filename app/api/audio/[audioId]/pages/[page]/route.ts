import { z } from 'zod';
import { OrvidError } from '@/core/errors';
import { crc32Text } from '@/server/audio/checksum';
import { readPage } from '@/server/audio/mending';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string; page: string }>(async (request, { audioId, page }) => {
  const number = z.coerce.number().int().min(0).safeParse(page);
  if (!number.success) throw new OrvidError('invalid-input', 'page: a page is a whole number from 0.');
  const bytes = await readPage(audioId, number.data);
  return keptResponse(request, bytes, crc32Text(bytes), 'application/octet-stream', true);
});
export const HEAD = GET;
