import { handle } from '@/server/http/handle';
import { plainName } from '@/core/renders';
import { asAttachment } from '@/server/render/finished';
import { archiveOf } from '@/server/songs/recovery';

/** Everything that there is of a song, damaged or not, as a file. */
export const GET = handle<{ songId: string }>(async (_, { songId }) => {
  const archive = await archiveOf(songId);
  const name = `${plainName(archive.title) || 'song'}.archive.json`;
  return new Response(JSON.stringify(archive, null, 1), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': asAttachment(name),
      'cache-control': 'no-store',
    },
  });
});
