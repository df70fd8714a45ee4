import { and, desc, eq } from 'drizzle-orm';
import { asOrvidError, isOfStorage, OrvidError } from '@/core/errors';
import { newId } from '@/core/song';
import { database } from '../database/client';
import { jobs as jobRows } from '../database/schema';
import { log } from '../log';
import { singleton } from '../singleton';
import { publish } from '../songs/events';
import type { Job, JobResult, JobTask } from './job';
import { leaving, nextPlace, waitForTurn } from './line';

/** How the work tells how far it is. */
export type Report = (step: string, progress: number) => void;

/**
 * Does the work of a kind of job. Done twice, after a crash, it must have the same effect as done once. It cleans up after itself when
 * `signal` aborts or it fails.
 */
type Runner<T extends JobTask> = (
  job: Pick<Job, 'id' | 'songId' | 'name' | 'orderId'>,
  task: T,
  signal: AbortSignal,
  report: Report,
) => Promise<JobResult>;

const runners = () => singleton('job-runners', () => new Map<Job['kind'], Runner<JobTask>>());

/** Says who does jobs of a kind. */
export function setRunner<K extends Job['kind']>(kind: K, runner: Runner<Extract<JobTask, { kind: K }>>): void {
  runners().set(kind, runner as Runner<JobTask>);
}

interface RunningJob {
  job: Job;
  abort: AbortController;
  ended: Promise<void>;
}

/** Jobs of a song that are told of after they have ended. */
const JOBS_TOLD = 100;
const running = () => singleton('jobs', () => new Map<string, RunningJob>());

/** What is known of work before it is a job. */
export type NewJob = Pick<Job, 'songId' | 'name' | 'uploadId' | 'orderId' | 'seconds'>;

/** Kinds of work of which only some are done at once; the rest stands in line. */
const IN_LINE: ReadonlySet<Job['kind']> = new Set<Job['kind']>(['render', 'bundle', 'proof']);

/** Starts long work and returns at once. The song's windows hear of its progress, at most ten times a second. */
export async function startJob(about: NewJob, task: JobTask): Promise<Job> {
  return (await startJobs([{ about, task }]))[0];
}

/** Starts several; all of them are known after a crash, or none. */
export async function startJobs(list: readonly { about: NewJob; task: JobTask }[]): Promise<Job[]> {
  const started = list.map(({ about, task }) => {
    const job: Job = {
      ...about,
      kind: task.kind,
      id: newId(12),
      step: 'waiting',
      progress: 0,
      ...(IN_LINE.has(task.kind) ? { state: 'waiting', place: nextPlace() } : { state: 'running' }),
    };
    return { job, task };
  });
  const db = await database();
  await db.transaction(async (tx) => {
    for (const { job, task } of started)
      await tx
        .insert(jobRows)
        .values({ id: job.id, songId: job.songId, job, task, isRunning: true, changedAt: new Date() });
  });
  return started.map(({ job, task }) => {
    run(job, task);
    return { ...job };
  });
}

/** The server stops: what runs is left as it is. */
export const leaveJobs = (): void => void (leaving().isLeft = true);

/** True once the server stops: what a job needs to be taken up again must stay. */
export const areJobsLeft = (): boolean => leaving().isLeft;

function run(job: Job, task: JobTask): void {
  const abort = new AbortController();
  let told = 0;
  const tell = () => publish(job.songId, { type: 'job', job: { ...job } });
  const report: Report = (step, progress) => {
    const now = Date.now();
    const isNew = step !== job.step;
    Object.assign(job, { step, progress, ...(isNew && { startedAt: now }) });
    if (!isNew && now - told < 100) return;
    told = now;
    tell();
  };
  const work = async () => {
    let leaveLine: (() => void) | undefined;
    try {
      if (IN_LINE.has(job.kind)) {
        leaveLine = await waitForTurn(job, abort.signal);
        Object.assign(job, { state: 'running' });
        tell();
      }
      const result = await runners().get(job.kind)!(job, task, abort.signal, report);
      Object.assign(job, { state: 'done', progress: 1, ...result });
    } catch (thrown) {
      // It stays known as running, and is taken up again at the next start.
      if (leaving().isLeft) return;
      const error = abort.signal.aborted
        ? new OrvidError('cancelled', `“${job.name}” was cancelled.`, 'Nothing of it was kept.')
        : asOrvidError(thrown);
      if (isOfStorage(error)) log.error({ error: thrown, job }, 'job failed');
      Object.assign(job, { state: abort.signal.aborted ? 'cancelled' : 'failed', error: error.toJSON() });
    } finally {
      leaveLine?.();
    }
    await keep(job);
    running().delete(job.id);
    tell();
  };
  running().set(job.id, { job, abort, ended: work() });
  tell();
}

async function keep(job: Job): Promise<void> {
  try {
    const db = await database();
    await db
      .update(jobRows)
      .set({ job: { ...job }, isRunning: false, changedAt: new Date() })
      .where(eq(jobRows.id, job.id));
  } catch (error) {
    // It stays known as running, and is looked at again at the next start.
    log.error({ error, job }, 'the end of a job could not be kept');
  }
}

/** Takes up what a crash has interrupted. @returns the tasks that run again */
export async function resumeJobs(): Promise<JobTask[]> {
  const db = await database();
  const left = await db.select().from(jobRows).where(eq(jobRows.isRunning, true));
  const again = left.filter(({ id }) => !running().has(id));
  again.sort((first, second) => (first.job.place ?? 0) - (second.job.place ?? 0));
  for (const { job, task } of again) {
    const place = job.place === undefined && IN_LINE.has(job.kind) ? nextPlace() : job.place;
    const state = IN_LINE.has(job.kind) ? 'waiting' : 'running';
    run({ ...job, state, place, step: 'waiting', progress: 0, startedAt: undefined }, task);
  }
  return again.map(({ task }) => task);
}

/** The jobs of a song that run or wait, and the last ones that have ended. */
export async function jobsOfSong(songId: string): Promise<Job[]> {
  const db = await database();
  const rowsOf = (isRunning: boolean) =>
    db
      .select({ job: jobRows.job })
      .from(jobRows)
      .where(and(eq(jobRows.songId, songId), eq(jobRows.isRunning, isRunning)))
      .orderBy(desc(jobRows.changedAt));
  const rows = [...(await rowsOf(true)), ...(await rowsOf(false).limit(JOBS_TOLD))];
  return rows.map(({ job }) => ({ ...(running().get(job.id)?.job ?? job) })).reverse();
}

/** The jobs of a song that are still running. */
export const runningJobs = async (songId: string): Promise<Job[]> =>
  (await jobsOfSong(songId)).filter(({ state }) => state === 'running' || state === 'waiting');

/** @throws OrvidError `not-found` */
export async function findJob(jobId: string): Promise<Job> {
  const known = running().get(jobId);
  if (known) return { ...known.job };
  const db = await database();
  const [row] = await db.select({ job: jobRows.job }).from(jobRows).where(eq(jobRows.id, jobId));
  if (!row) throw new OrvidError('not-found', `There is no job “${jobId}”.`);
  return row.job;
}

/** Asks a job to stop; it ends as `cancelled`. A job that has ended stays as it is. @throws OrvidError `not-found` */
export async function cancelJob(jobId: string): Promise<void> {
  await findJob(jobId);
  running().get(jobId)?.abort.abort();
}

/** Lets a job that waits go before another one that waits, or before all of them. @throws OrvidError `not-found` */
export async function moveJob(jobId: string, before: string | null): Promise<Job> {
  const job = running().get(jobId)?.job;
  if (job?.state !== 'waiting') throw new OrvidError('not-found', 'This does not wait in line any more.');
  const others = [...running().values()]
    .flatMap(({ job: second }) => (second.place !== undefined && second.id !== jobId ? [second] : []))
    .sort((first, second) => first.place! - second.place!);
  const at = others.findIndex(({ id, state }) => state === 'waiting' && (before === null || id === before));
  if (at < 0 && before !== null) throw new OrvidError('not-found', 'What it should go before does not wait any more.');
  const next = others[at]?.place;
  if (next !== undefined) job.place = ((others[at - 1]?.place ?? next - 1) + next) / 2;
  const db = await database();
  await db
    .update(jobRows)
    .set({ job: { ...job } })
    .where(eq(jobRows.id, jobId));
  publish(job.songId, { type: 'job', job: { ...job } });
  return { ...job };
}

/** Waits until no job runs. */
export async function jobsEnded(): Promise<void> {
  await Promise.all([...running().values()].map(({ ended }) => ended));
}
