import { notFound } from 'next/navigation';
import { asOrvidError } from '@/core/errors';
import { runningJobs } from '@/server/jobs/jobs';
import { loadSong, type StoredSong } from '@/server/songs/store';
import { MainView } from '@/ui/pages/song/main-view';

export const dynamic = 'force-dynamic';

type Props = { params: Promise<{ songId: string }> };

async function find(songId: string): Promise<StoredSong | null> {
  try {
    return await loadSong(songId);
  } catch (thrown) {
    if (asOrvidError(thrown).code === 'not-found') return null;
    throw thrown;
  }
}

export async function generateMetadata({ params }: Props) {
  const found = await find((await params).songId);
  return { title: found ? `${found.song.title} · Orvid` : 'Orvid' };
}

export default async function SongPage({ params }: Props) {
  const found = await find((await params).songId);
  if (!found) notFound();
  const { id, song, revision } = found;
  return <MainView key={id} songId={id} song={song} revision={revision} jobs={await runningJobs(id)} />;
}
