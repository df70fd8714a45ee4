import { notFound } from 'next/navigation';
import { asOrvidError, type OrvidError } from '@/core/errors';
import { runningJobs } from '@/server/jobs/jobs';
import { loadSong, type StoredSong } from '@/server/songs/store';
import { DamagedPage } from '@/ui/pages/message/damaged-page';
import { MainView } from '@/ui/pages/song/main-view';

export const dynamic = 'force-dynamic';

type Props = { params: Promise<{ songId: string }> };

type Found = StoredSong | { problem: OrvidError };

/** The song, or why it cannot be opened; null for one that does not exist. */
async function find(songId: string): Promise<Found | null> {
  try {
    return await loadSong(songId);
  } catch (thrown) {
    const error = asOrvidError(thrown);
    if (error.code === 'not-found') return null;
    if (['damaged', 'conflict', 'database-damaged'].includes(error.code)) return { problem: error };
    throw thrown;
  }
}

export async function generateMetadata({ params }: Props) {
  const found = await find((await params).songId);
  return { title: found && 'song' in found ? `${found.song.title} · Orvid` : 'Orvid' };
}

export default async function SongPage({ params }: Props) {
  const { songId } = await params;
  const found = await find(songId);
  if (!found) notFound();
  if ('problem' in found) {
    const { code, message, kept = '' } = found.problem;
    return <DamagedPage songId={songId} message={message} kept={kept} canGoBack={code === 'damaged'} />;
  }
  const { id, song, revision } = found;
  return <MainView key={id} songId={id} song={song} revision={revision} jobs={await runningJobs(id)} />;
}
