import { handle } from '@/server/http/handle';
import { jobsOfSong } from '@/server/jobs/jobs';

/** The jobs of a song that run or have ended not long ago. */
export const GET = handle<{ songId: string }>(async (_, { songId }) => ({ jobs: await jobsOfSong(songId) }));
