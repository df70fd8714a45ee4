import { asOrvidError, OrvidError, type ErrorCode } from '@/core/errors';
import { newId } from '@/core/song';
import { log } from '../log';
import { singleton } from '../singleton';
import { publish } from '../songs/events';

/** Long work on the server, as the page sees it. */
export interface Job {
  id: string;
  songId: string;
  kind: 'import' | 'render';
  /** The file it is about. */
  name: string;
  /** What the window that sent the file calls the upload: it may have been cancelled there before the job was known. */
  uploadId?: string;
  state: 'running' | 'done' | 'failed' | 'cancelled';
  /** What it is busy with, in a word. */
  step: string;
  /** 0 to 1. */
  progress: number;
  error?: { code: ErrorCode; message: string; kept?: string };
  /** What it made: a track's id, a render's id. */
  resultId?: string;
  /** Something to know about what it made. */
  remark?: string;
}

/** What a job has made. */
export type JobResult = Pick<Job, 'remark'> & Required<Pick<Job, 'resultId'>>;

interface RunningJob {
  job: Job;
  abort: AbortController;
}

const FINISHED_JOBS_KEPT = 200;
const jobs = () => singleton('jobs', () => new Map<string, RunningJob>());

/** How the work tells how far it is. */
export type Report = (step: string, progress: number) => void;

/**
 * Starts long work and returns at once. The song's windows hear of its progress, at most ten times a second.
 * @param work gives what it made; must clean up after itself when `signal` aborts or it fails
 */
export function startJob(
  about: Pick<Job, 'songId' | 'kind' | 'name' | 'uploadId'>,
  work: (signal: AbortSignal, report: Report) => Promise<JobResult>,
): Job {
  const abort = new AbortController();
  const job: Job = { ...about, id: newId(12), state: 'running', step: 'waiting', progress: 0 };
  jobs().set(job.id, { job, abort });
  let told = 0;
  const tell = () => publish(job.songId, { type: 'job', job: { ...job } });
  const report: Report = (step, progress) => {
    const now = Date.now();
    const isNew = step !== job.step;
    Object.assign(job, { step, progress });
    if (!isNew && now - told < 100) return;
    told = now;
    tell();
  };
  tell();
  void work(abort.signal, report)
    .then((result) => Object.assign(job, { state: 'done', progress: 1, ...result }))
    .catch((thrown: unknown) => {
      const error = abort.signal.aborted
        ? new OrvidError('cancelled', `“${job.name}” was cancelled.`, 'Nothing of it was kept.')
        : asOrvidError(thrown);
      if (error.code === 'internal') log.error({ error: thrown, job }, 'job failed');
      Object.assign(job, { state: abort.signal.aborted ? 'cancelled' : 'failed', error: error.toJSON() });
    })
    .finally(() => {
      tell();
      forgetOldest();
    });
  return { ...job };
}

function forgetOldest(): void {
  const finished = [...jobs().values()].filter(({ job }) => job.state !== 'running');
  finished.slice(0, Math.max(0, finished.length - FINISHED_JOBS_KEPT)).forEach(({ job }) => jobs().delete(job.id));
}

/** The jobs of a song that run, and the last ones that have ended. */
export function jobsOfSong(songId: string): Job[] {
  return [...jobs().values()].filter(({ job }) => job.songId === songId).map(({ job }) => ({ ...job }));
}

/** The jobs of a song that are still running. */
export const runningJobs = (songId: string): Job[] => jobsOfSong(songId).filter(({ state }) => state === 'running');

/** @throws OrvidError `not-found` */
export function findJob(jobId: string): Job {
  const found = jobs().get(jobId);
  if (!found) throw new OrvidError('not-found', `There is no job “${jobId}”.`);
  return { ...found.job };
}

/** Asks a job to stop; it ends as `cancelled`. A job that has ended stays as it is. @throws OrvidError `not-found` */
export function cancelJob(jobId: string): void {
  findJob(jobId);
  jobs().get(jobId)!.abort.abort();
}
