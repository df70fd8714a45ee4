import * as z from 'zod';
import { handle, readJson } from '@/server/http/handle';
import { cancelJob, findJob, moveJob } from '@/server/jobs/jobs';

type Params = { jobId: string };

export const GET = handle<Params>(async (_, { jobId }) => ({ job: await findJob(jobId) }));

/** Lets it go before another one that waits; before all of them for null. */
const move = z.strictObject({ before: z.string().max(40).nullable() });
export const POST = handle<Params>(async (request, { jobId }) => {
  const { before } = await readJson(request, move);
  return { job: await moveJob(jobId, before) };
});

export const DELETE = handle<Params>(async (_, { jobId }) => cancelJob(jobId));
