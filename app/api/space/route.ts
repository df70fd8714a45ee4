import { handle } from '@/server/http/handle';
import { clearSpace, measureSpace } from '@/server/space';

/** What is used, bytes. */
export const GET = handle(async () => measureSpace());

/** Clears at once what nobody needs any more. */
export const DELETE = handle(async () => {
  await clearSpace(new Date());
  return measureSpace();
});
