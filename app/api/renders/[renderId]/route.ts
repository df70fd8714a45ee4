import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { handle } from '@/server/http/handle';
import { findRender } from '@/server/render/render-job';

export const GET = handle<{ renderId: string }>(async (_, { renderId }) => {
  const { file, fileName } = await findRender(renderId);
  const { size } = await stat(file);
  return new Response(Readable.toWeb(createReadStream(file)) as ReadableStream, {
    headers: {
      'content-type': 'audio/wav',
      'content-length': String(size),
      'content-disposition': `attachment; filename="${fileName}"`,
    },
  });
});
