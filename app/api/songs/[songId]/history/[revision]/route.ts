import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { settingsOf } from '@/core/song';
import { handle } from '@/server/http/handle';
import { songAt } from '@/server/songs/history';

const number = z.coerce.number().int().min(0);

/** The settings of a song as they were after so many changes. */
export const GET = handle<{ songId: string; revision: string }>(async (_, { songId, revision }) => {
  const parsed = number.safeParse(revision);
  if (!parsed.success) throw new OrvidError('invalid-input', 'A moment is a whole number from 0.');
  const { song } = await songAt(songId, parsed.data);
  return { settings: settingsOf(song) };
});
