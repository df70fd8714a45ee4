import { redirect } from 'next/navigation';
import { config } from '@/server/config';
import { listSongs } from '@/server/songs/store';

export const dynamic = 'force-dynamic';

/** The song that is set to be opened first, or the list of songs. */
export default async function StartPage() {
  const { startSong } = config();
  // Where they cannot be listed the page of the songs says why.
  const exists = (await listSongs().catch(() => [])).some((song) => song.id === startSong);
  redirect(exists ? `/songs/${startSong}` : '/songs');
}
