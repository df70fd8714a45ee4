'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { TextButton } from '../../kit/controls/button';
import { Progress } from '../../kit/controls/progress';
import { useDesk } from '../../window/desk/desk';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { uploadsOf } from './upload';

const DONE_SHOWN_MS = 2500;

/** Files that come in, in a corner over the page. */
export function Tray() {
  const jobs = useJobs((store) => store.jobs);
  const imports = Object.values(jobs).filter((job) => job.kind === 'import' && job.state !== 'cancelled');
  if (imports.length === 0) return null;
  return (
    <Corner aria-label="Recordings that come in">
      <Failed imports={imports} />
      {imports.map((job) => (
        <ImportLine key={job.id} job={job} />
      ))}
    </Corner>
  );
}

/** Where several files did not come in: all of them at one press. */
function Failed({ imports }: { imports: readonly JobView[] }) {
  const uploads = uploadsOf(useDesk());
  const remove = useJobs((store) => store.remove);
  const failed = imports.filter((job) => uploads.canRetry(job));
  if (failed.length < 2) return null;
  return (
    <Line role="group" aria-label="Files that did not come in">
      <p>
        <b>{failed.length} files did not come in</b>
      </p>
      <div>
        <TextButton onPress={() => failed.forEach((job) => uploads.retry(job))}>Try all again</TextButton>
        <TextButton onPress={() => failed.forEach(({ id }) => remove(id))}>Dismiss all</TextButton>
      </div>
    </Line>
  );
}

/** What went wrong, and with which file. */
const faultText = ({ name, error }: JobView) =>
  [error?.message.includes(name) ? '' : `“${name}”:`, error?.message, error?.kept].filter(Boolean).join(' ');

function ImportLine({ job }: { job: JobView }) {
  const desk = useDesk();
  const remove = useJobs((store) => store.remove);
  useEffect(() => {
    if (job.state !== 'done') return;
    const timer = setTimeout(() => remove(job.id), DONE_SHOWN_MS);
    return () => clearTimeout(timer);
  }, [job.state, job.id, remove]);

  if (job.state === 'failed') {
    const isKnown = job.error?.code === 'conflict';
    return (
      <Line data-problem={!isKnown || undefined} role={isKnown ? 'group' : 'alert'} aria-label={job.name}>
        <p>{faultText(job)}</p>
        <div>
          {isKnown && <TextButton onPress={() => uploadsOf(desk).addAgain(job)}>Add it again</TextButton>}
          {uploadsOf(desk).canRetry(job) && (
            <TextButton aria-label={`Try ${job.name} again`} onPress={() => uploadsOf(desk).retry(job)}>
              Try again
            </TextButton>
          )}
          <TextButton onPress={() => remove(job.id)}>{isKnown ? 'Leave it out' : 'Dismiss'}</TextButton>
        </div>
      </Line>
    );
  }
  return (
    <Line>
      <p>
        <b title={job.name}>{job.name}</b>
        <span>{job.state === 'done' ? 'is in the song' : `${job.step} ${Math.floor(job.progress * 100)} %`}</span>
      </p>
      {job.state === 'running' && (
        <TextButton aria-label={`Cancel ${job.name}`} onPress={() => uploadsOf(desk).cancel(job.id)}>
          Cancel
        </TextButton>
      )}
      <Progress label={`Import of ${job.name}`} value={job.progress} />
    </Line>
  );
}

const Corner = styled.aside`
  position: fixed;
  right: 12px;
  bottom: 34px;
  z-index: 15;
  width: 380px;
  max-width: calc(100vw - 24px);
  max-height: 60vh;
  overflow-y: auto;
  border: 1px solid var(--ink);
  background: var(--field);
`;
const Line = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 5px 14px;
  align-items: start;
  padding: 8px 12px;
  border-bottom: 1px solid var(--grid);
  &[data-problem] {
    border-left: 4px solid var(--accent);
  }
  p {
    display: flex;
    gap: 10px;
  }
  div {
    display: flex;
    gap: 12px;
  }
  b {
    overflow: hidden;
    font-weight: 600;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  span {
    color: var(--soft);
    white-space: nowrap;
  }
  > [role='progressbar'] {
    grid-column: 1 / -1;
  }
  &:last-child {
    border-bottom: 0;
  }
`;
