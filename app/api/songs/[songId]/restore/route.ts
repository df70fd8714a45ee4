import { handle } from '@/server/http/handle';
import { restoreSong } from '@/server/songs/store';

export const POST = handle<{ songId: string }>(async (_, { songId }) => restoreSong(songId));
