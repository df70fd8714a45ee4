import { z } from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { receiveUpload, startImport } from '@/server/import/import-track';
import { discard } from '@/server/audio/store';
import { loadSong } from '@/server/songs/store';

const fileName = z.string().min(1).max(255);

/** Takes one file as the raw body; `?name=` is what it is called. */
export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const name = fileName.safeParse(new URL(request.url).searchParams.get('name'));
  if (!name.success) throw new OrvidError('invalid-input', 'name: the file needs a name of 1 to 255 characters.');
  await loadSong(songId);
  const upload = await receiveUpload(request.body, name.data, request.signal);
  try {
    return { job: await startImport(songId, upload, name.data) };
  } catch (thrown) {
    await discard(upload);
    throw thrown;
  }
});
