import * as z from 'zod';
import { editSchema } from '@/core/song';
import { handle, readJson } from '@/server/http/handle';
import { submitEdits } from '@/server/songs/store';

const submission = z.strictObject({
  clientId: z.string().min(1).max(40),
  edits: z
    .array(z.strictObject({ id: z.string().min(1).max(40), edit: editSchema }))
    .min(1)
    .max(200),
});

export const POST = handle<{ songId: string }>(async (request, { songId }) => {
  const { clientId, edits } = await readJson(request, submission);
  return { outcomes: await submitEdits(songId, clientId, edits) };
});
