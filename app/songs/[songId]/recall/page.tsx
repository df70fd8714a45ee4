import { notFound } from 'next/navigation';
import { asOrvidError } from '@/core/errors';
import { loadSong } from '@/server/songs/store';
import { RecallPage } from '@/ui/pages/recall/recall-page';

export const dynamic = 'force-dynamic';

type Props = { params: Promise<{ songId: string }> };

export default async function Recall({ params }: Props) {
  const { songId } = await params;
  const found = await loadSong(songId).catch((thrown: unknown) => {
    if (asOrvidError(thrown).code === 'not-found') notFound();
    throw thrown;
  });
  return <RecallPage songId={songId} song={found.song} />;
}
