import { findAnalysis } from '@/server/audio/store';
import { handle } from '@/server/http/handle';

export const GET = handle<{ audioId: string }>(async (_, { audioId }) =>
  Response.json(await findAnalysis(audioId), { headers: { 'cache-control': 'private, max-age=31536000, immutable' } }),
);
