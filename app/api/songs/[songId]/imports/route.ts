import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { handle } from '@/server/http/handle';
import { receiveUpload, startImport } from '@/server/import/import-track';
import { discard } from '@/server/audio/store';
import { loadSong } from '@/server/songs/store';

const fileName = z.string().min(1).max(255);

const facts = z.object({
  upload: z.string().max(40).optional(),
  drop: z.string().max(40).optional(),
  place: z.coerce.number().int().min(0).default(0),
  again: z.literal('1').optional(),
  at: z.coerce.number().min(0).max(36000).optional(),
});

/**
 * Takes one file as the raw body; `?name=` is what it is called, `?upload=` what the window calls the upload, `?drop=` and `?place=` with which
 * others it came and where it stands among them, `?again=1` takes it in although a track plays it already, `?at=` seconds is where in the song it begins.
 */
export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const { searchParams } = new URL(request.url);
  const name = fileName.safeParse(searchParams.get('name'));
  if (!name.success) throw new OrvidError('invalid-input', 'name: the file needs a name of 1 to 255 characters.');
  const given = facts.safeParse(Object.fromEntries(searchParams));
  if (!given.success)
    throw new OrvidError('invalid-input', 'upload, drop, place, again or at: what is said of the file is unreadable.');
  await loadSong(songId);
  const upload = await receiveUpload(request.body, name.data, request.signal);
  try {
    const { upload: uploadId, drop, place, again, at } = given.data;
    return {
      job: await startImport(songId, upload, name.data, {
        uploadId,
        drop: drop === undefined ? undefined : { id: drop, place },
        isAgain: again === '1',
        atSeconds: at,
      }),
    };
  } catch (thrown) {
    await discard(upload);
    throw thrown;
  }
});
