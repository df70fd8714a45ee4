import { readSuspects } from '@/server/audio/suspects';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string }>(async (_, { audioId }) =>
  Response.json(await readSuspects(audioId), { headers: { 'cache-control': 'private, no-cache' } }),
);
