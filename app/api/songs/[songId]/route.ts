import { handle } from '@/server/http/handle';
import { runningJobs } from '@/server/jobs/jobs';
import { deleteSong, loadSong } from '@/server/songs/store';

type Params = { songId: string };

export const GET = handle<Params>(async (_, { songId }) => ({
  ...(await loadSong(songId)),
  jobs: await runningJobs(songId),
}));

export const DELETE = handle<Params>(async (_, { songId }) => deleteSong(songId));
