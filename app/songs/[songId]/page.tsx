import { notFound } from 'next/navigation';
import { asOrvidError } from '@/core/errors';
import { runningJobs } from '@/server/jobs/jobs';
import { loadSong, type StoredSong } from '@/server/songs/store';
import { MainView } from '@/ui/main-view';

export const dynamic = 'force-dynamic';

type Props = { params: Promise<{ songId: string }> };

async function find(songId: string): Promise<StoredSong> {
  try {
    return await loadSong(songId);
  } catch (thrown) {
    if (asOrvidError(thrown).code === 'not-found') notFound();
    throw thrown;
  }
}

export async function generateMetadata({ params }: Props) {
  const { song } = await find((await params).songId);
  return { title: `${song.title} · Orvid` };
}

export default async function SongPage({ params }: Props) {
  const { id, song, revision } = await find((await params).songId);
  return <MainView key={id} songId={id} song={song} revision={revision} jobs={runningJobs(id)} />;
}
