import { OrvidError } from '@/core/errors';
import { proofOrderSchema } from '@/core/proof';
import { handle, readJson } from '@/server/http/handle';
import { pageOfItsOwn } from '@/server/http/file-response';
import { previewProof, startProof } from '@/server/proof/proof-job';

type Params = { songId: string };

/** The page as it will be, without its sound; `?order=` is the order as JSON. */
export const GET = handle<Params>(async (request, { songId }) => {
  let order: unknown;
  try {
    order = JSON.parse(new URL(request.url).searchParams.get('order') ?? '');
  } catch {
    throw new OrvidError('invalid-input', 'order: it is not JSON.');
  }
  const parsed = proofOrderSchema.safeParse(order);
  if (!parsed.success)
    throw new OrvidError(
      'invalid-input',
      `${parsed.error.issues[0].path.join('.')}: ${parsed.error.issues[0].message}`,
    );
  return new Response(await previewProof(songId, parsed.data), { headers: pageOfItsOwn() });
});

export const POST = handle<Params>(async (request, { songId }) => ({
  job: await startProof(songId, await readJson(request, proofOrderSchema)),
}));
