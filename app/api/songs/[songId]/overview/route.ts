import { crc32Text } from '@/server/audio/checksum';
import { keptAnalysis } from '@/server/audio/measured';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';
import { loadSong } from '@/server/songs/store';

/** What is seen of all recordings of a song at first sight, by their ids; those that have to be measured first are left out. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const { song } = await loadSong(songId);
  const audioIds = [...new Set(song.tracks.map(({ audioId }) => audioId))];
  const kept = await Promise.all(audioIds.map(async (audioId) => [audioId, await keptAnalysis(audioId)] as const));
  const body = JSON.stringify(Object.fromEntries(kept.filter(([, analysis]) => analysis)));
  return keptResponse(request, body, crc32Text(body), 'application/json', false);
});
