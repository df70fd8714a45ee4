import { handle } from '@/server/http/handle';
import { fileResponse, pageOfItsOwn } from '@/server/http/file-response';
import { asAttachment, findFinished, removeFinished, typeOf } from '@/server/render/finished';

type Params = { renderId: string };

/** The file; with `?see` a page is shown in place of being taken. */
export const GET = handle<Params>(async (request, { renderId }) => {
  const { file, fileName } = await findFinished(renderId);
  const isSeen = new URL(request.url).searchParams.has('see') && fileName.endsWith('.html');
  if (isSeen) return fileResponse(request, file, pageOfItsOwn());
  return fileResponse(request, file, {
    'content-type': typeOf(fileName),
    'content-disposition': asAttachment(fileName),
    etag: `"${renderId}"`,
  });
});
export const HEAD = GET;

export const DELETE = handle<Params>(async (_, { renderId }) => removeFinished(renderId));
