import { handle } from '@/server/http/handle';
import { cancelJob, findJob } from '@/server/jobs/jobs';

type Params = { jobId: string };

export const GET = handle<Params>(async (_, { jobId }) => ({ job: await findJob(jobId) }));

export const DELETE = handle<Params>(async (_, { jobId }) => cancelJob(jobId));
