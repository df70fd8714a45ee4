import { handle } from '@/server/http/handle';
import { fileNameOf } from '@/server/render/naming';
import { archiveOf } from '@/server/songs/recovery';

/** Everything that there is of a song, damaged or not, as a file. */
export const GET = handle<{ songId: string }>(async (_, { songId }) => {
  const archive = await archiveOf(songId);
  const name = fileNameOf(archive.title).replace(/\.wav$/, '.archive.json');
  return new Response(JSON.stringify(archive, null, 1), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
});
