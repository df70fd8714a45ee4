import { z } from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { receiveUpload, startImport } from '@/server/import/import-track';
import { discard } from '@/server/audio/store';
import { loadSong } from '@/server/songs/store';

const fileName = z.string().min(1).max(255);

const uploadId = z.string().max(40).optional();

/** Takes one file as the raw body; `?name=` is what it is called, `?upload=` what the window calls the upload. */
export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const { searchParams } = new URL(request.url);
  const name = fileName.safeParse(searchParams.get('name'));
  if (!name.success) throw new OrvidError('invalid-input', 'name: the file needs a name of 1 to 255 characters.');
  await loadSong(songId);
  const upload = await receiveUpload(request.body, name.data, request.signal);
  try {
    const called = uploadId.safeParse(searchParams.get('upload') ?? undefined).data;
    return { job: await startImport(songId, upload, name.data, called) };
  } catch (thrown) {
    await discard(upload);
    throw thrown;
  }
});
