'use client';
import styled from 'styled-components';
import { writeLength } from '@/core/formats';
import { TextButton } from '../../kit/controls/button';
import { Progress } from '../../kit/controls/progress';
import { useDesk, type Desk } from '../../window/desk/desk';
import { tellError } from '../../window/notices/notices';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { request } from '../../window/server/request';
import { asOrvidError } from '@/core/errors';

/** Kinds of work that make a file to hand on. */
const MAKES_FILES: ReadonlySet<JobView['kind']> = new Set<JobView['kind']>(['render', 'bundle', 'proof']);
export const makesFile = ({ kind }: JobView) => MAKES_FILES.has(kind);

const isUnderway = ({ state }: JobView) => state === 'running' || state === 'waiting';

/** How far a job is, in what it makes. */
function progressText({ step, progress, seconds, startedAt }: JobView): string {
  if (seconds === undefined || step !== 'rendering') return step;
  const done = progress * seconds;
  const taken = startedAt === undefined ? 0 : (Date.now() - startedAt) / 1000;
  const speed = taken > 1 && done > 0 ? `, ${Math.max(1, Math.round(done / taken))}× as fast as it plays` : '';
  return `${writeLength(done)} of ${writeLength(seconds)}${speed}`;
}

async function attempt(desk: Desk, work: () => Promise<unknown>): Promise<void> {
  try {
    await work();
  } catch (thrown) {
    tellError(desk, asOrvidError(thrown));
  }
}

const cancel = ({ id }: JobView) => request('DELETE', `/api/jobs/${id}`);

/** What is being made, what waits for it, and what went wrong. */
export function LineList() {
  const desk = useDesk();
  const jobs = useJobs((store) => store.jobs);
  const made = Object.values(jobs).filter(makesFile);
  const underway = made
    .filter(isUnderway)
    .sort((first, second) =>
      first.state === second.state ? (first.place ?? 0) - (second.place ?? 0) : first.state === 'running' ? -1 : 1,
    );
  const failed = made.filter(({ state }) => state === 'failed' || state === 'cancelled');
  if (underway.length + failed.length === 0) return null;
  const firstWaiting = underway.find(({ state }) => state === 'waiting');
  return (
    <>
      {underway.length > 0 && (
        <Head>
          <h3>Being made</h3>
          {underway.length > 1 && (
            <TextButton onPress={() => void attempt(desk, () => Promise.all(underway.map(cancel)))}>
              Cancel all {underway.length}
            </TextButton>
          )}
        </Head>
      )}
      <Lines aria-label="Being made" aria-live="polite">
        {underway.map((job) => (
          <li key={job.id}>
            <b title={job.name}>{job.name}</b>
            {job.state === 'waiting' && job !== firstWaiting && (
              <TextButton
                aria-label={`${job.name} next`}
                data-hint="Before all others that wait"
                onPress={() =>
                  void attempt(desk, () => request('POST', `/api/jobs/${job.id}`, { before: firstWaiting?.id ?? null }))
                }
              >
                Next
              </TextButton>
            )}
            <TextButton aria-label={`Cancel ${job.name}`} onPress={() => void attempt(desk, () => cancel(job))}>
              Cancel
            </TextButton>
            {job.state === 'running' && (
              <div>
                <Progress label={job.name} value={job.progress} />
                <small>{progressText(job)}</small>
              </div>
            )}
          </li>
        ))}
        {failed.map((job) => (
          <li key={job.id} data-failed={job.state === 'failed' || undefined}>
            <b title={job.name}>{job.name}</b>
            <TextButton aria-label={`Leave ${job.name} out`} onPress={() => useJobs.of(desk).remove(job.id)}>
              Leave out
            </TextButton>
            <div>
              {job.state === 'cancelled'
                ? 'It was cancelled. Nothing of it was kept.'
                : [job.error?.message, job.error?.kept].filter(Boolean).join(' ')}
            </div>
          </li>
        ))}
      </Lines>
    </>
  );
}

export const Head = styled.div`
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  h3 {
    margin: 0;
    color: var(--soft);
    font: inherit;
  }
  a {
    color: var(--claim);
    font-weight: 600;
    text-decoration: none;
  }
  a:hover {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
`;
export const Lines = styled.ul`
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
  li {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0 10px;
    min-height: 28px;
    border-bottom: 1px solid var(--grid);
  }
  b,
  a {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  a {
    color: var(--claim);
  }
  div {
    flex-basis: 100%;
    padding-bottom: 4px;
    color: var(--soft);
    font-size: 12.5px;
  }
  [data-failed] div {
    color: var(--accent);
    font-weight: 600;
  }
`;
