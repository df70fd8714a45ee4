import { startPacking } from '@/server/bundle/bundle-job';
import { handle } from '@/server/http/handle';

/** Packs the song as it stands now into one file. */
export const POST = handle<{ songId: string }>(async (_, { songId }) => ({ job: await startPacking(songId) }));
