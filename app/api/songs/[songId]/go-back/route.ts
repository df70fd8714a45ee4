import { handle } from '@/server/http/handle';
import { goBack } from '@/server/songs/recovery';

/** Puts a damaged song back to its last good state. */
export const POST = handle<{ songId: string }>(async (_, { songId }) => {
  const { revision, reached } = await goBack(songId);
  return { revision, reached };
});
