import { handle } from '@/server/http/handle';
import { fileResponse } from '@/server/http/file-response';
import { findRender } from '@/server/render/render-job';

export const GET = handle<{ renderId: string }>(async (request, { renderId }) => {
  const { file, fileName } = await findRender(renderId);
  return fileResponse(request, file, {
    'content-type': 'audio/wav',
    'content-disposition': `attachment; filename="${fileName}"`,
    etag: `"${renderId}"`,
  });
});
export const HEAD = GET;
