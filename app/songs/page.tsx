import { asOrvidError } from '@/core/errors';
import { listSongs } from '@/server/songs/store';
import { MessagePage } from '@/ui/pages/message/message-page';
import { SongList } from '@/ui/pages/songs/song-list';

export const dynamic = 'force-dynamic';

/** The songs, or why they cannot be listed. */
async function list() {
  try {
    return { songs: await listSongs() };
  } catch (thrown) {
    const problem = asOrvidError(thrown);
    if (problem.code !== 'database-damaged') throw thrown;
    return { problem };
  }
}

export default async function SongsPage() {
  const { songs, problem } = await list();
  if (songs) return <SongList initialSongs={songs} />;
  return <MessagePage title="The songs cannot be listed" text={`${problem.message} ${problem.kept}`} />;
}
