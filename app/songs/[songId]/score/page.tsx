import { notFound } from 'next/navigation';
import { asOrvidError } from '@/core/errors';
import { loadSong } from '@/server/songs/store';
import { ScorePage } from '@/ui/pages/score/score-page';

export const dynamic = 'force-dynamic';

type Props = { params: Promise<{ songId: string }> };

export default async function Score({ params }: Props) {
  const { songId } = await params;
  const found = await loadSong(songId).catch((thrown: unknown) => {
    if (asOrvidError(thrown).code === 'not-found') notFound();
    throw thrown;
  });
  return <ScorePage songId={songId} song={found.song} />;
}
