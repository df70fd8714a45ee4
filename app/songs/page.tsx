import { listSongs } from '@/server/songs/store';
import { SongList } from '@/ui/pages/songs/song-list';

export const dynamic = 'force-dynamic';

export default async function SongsPage() {
  return <SongList initialSongs={await listSongs()} />;
}
