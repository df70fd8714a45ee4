import * as z from 'zod';
import { OrvidError } from '@/core/errors';
import { discard } from '@/server/audio/store';
import { startUnpacking } from '@/server/bundle/bundle-job';
import { config } from '@/server/config';
import { handle } from '@/server/http/handle';
import { receiveUpload } from '@/server/import/import-track';

const fileName = z.string().min(1).max(255);

/** Takes a packed song as the raw body; `?name=` is what the file is called. The job’s song is the one that it becomes. */
export const POST = handle(async (request) => {
  const name = fileName.safeParse(new URL(request.url).searchParams.get('name'));
  if (!name.success) throw new OrvidError('invalid-input', 'name: the file needs a name of 1 to 255 characters.');
  const upload = await receiveUpload(request.body, name.data, request.signal, {
    bytes: config().maxBundleBytes,
    setting: 'ORVID_MAX_BUNDLE_MIB',
  });
  try {
    return { job: await startUnpacking(upload, name.data) };
  } catch (thrown) {
    await discard(upload);
    throw thrown;
  }
});
