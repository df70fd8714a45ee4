import { handle } from '@/server/http/handle';
import { duplicateSong } from '@/server/songs/store';

export const POST = handle<{ songId: string }>(async (_, { songId }) => duplicateSong(songId));
