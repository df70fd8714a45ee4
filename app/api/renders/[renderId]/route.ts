import { handle } from '@/server/http/handle';
import { fileResponse } from '@/server/http/file-response';
import { asAttachment, findFinished, removeFinished, typeOf } from '@/server/render/finished';

type Params = { renderId: string };

export const GET = handle<Params>(async (request, { renderId }) => {
  const { file, fileName } = await findFinished(renderId);
  return fileResponse(request, file, {
    'content-type': typeOf(fileName),
    'content-disposition': asAttachment(fileName),
    etag: `"${renderId}"`,
  });
});
export const HEAD = GET;

export const DELETE = handle<Params>(async (_, { renderId }) => removeFinished(renderId));
