import { plainName } from '@/core/renders';
import { handle } from '@/server/http/handle';
import { asAttachment, finishedOf, zipOfFinished } from '@/server/render/finished';
import { loadSong } from '@/server/songs/store';

/** All that was made of a song, as one file. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const { song } = await loadSong(songId);
  return new Response(zipOfFinished(await finishedOf(songId), request.signal), {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': asAttachment(`${plainName(song.title) || 'song'}.zip`),
      'cache-control': 'no-store',
    },
  });
});
