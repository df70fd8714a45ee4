import { listSongs } from '@/server/songs/store';
import { SongList } from '@/ui/songs';

export const dynamic = 'force-dynamic';

export default async function SongsPage() {
  return <SongList initialSongs={await listSongs()} />;
}
