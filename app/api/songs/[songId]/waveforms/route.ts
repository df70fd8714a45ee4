import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { waveformStretch } from '@/core/measure';
import { crc32Text } from '@/server/audio/checksum';
import { readWaveform } from '@/server/audio/measured';
import { keptResponse } from '@/server/http/file-response';
import { handle } from '@/server/http/handle';
import { loadSong } from '@/server/songs/store';

const frame = z.coerce.number().int().min(0);
const stretchSchema = z
  .object({ from: frame, to: frame, most: z.coerce.number().int().min(2).max(4000).default(1000) })
  .refine(({ from, to }) => from < to);

/** The waveforms of all recordings of a song between two frames, by their ids, in at most so many entries each. */
export const GET = handle<{ songId: string }>(async (request, { songId }) => {
  const asked = stretchSchema.safeParse(Object.fromEntries(new URL(request.url).searchParams));
  if (!asked.success)
    throw new OrvidError(
      'invalid-input',
      'from, to: whole frames, the first below the second; most: entries, 2 to 4000.',
    );
  const { from, to, most } = asked.data;
  const { song } = await loadSong(songId);
  const stretches: Record<string, ReturnType<typeof waveformStretch>> = {};
  for (const audioId of new Set(song.tracks.map((track) => track.audioId))) {
    // One that is damaged is named where it is played; here it is left out.
    const waveform = await readWaveform(audioId).catch(() => null);
    if (waveform) stretches[audioId] = waveformStretch(waveform, from, to, most);
  }
  const body = JSON.stringify(stretches);
  return keptResponse(request, body, crc32Text(body), 'application/json', false);
});
