import * as z from 'zod';
import { songSchema, USUAL_RATE_HZ } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { createEmptySong, listSongs } from '@/server/songs/store';

const newSong = z.strictObject({
  title: songSchema.shape.title,
  rateHz: songSchema.shape.rateHz.default(USUAL_RATE_HZ),
});

export const GET = handle(async () => ({ songs: await listSongs() }));

export const POST = handle(async (request) => {
  const { title, rateHz } = await readJson(request, newSong);
  return createEmptySong(title, rateHz);
});
