import { readAnalysis } from '@/server/audio/measured';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string }>(async (_, { audioId }) =>
  Response.json(await readAnalysis(audioId), { headers: { 'cache-control': 'private, no-cache' } }),
);
