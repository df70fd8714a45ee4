'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { Progress, TextButton } from '../controls';
import { useJobs, useSongStore, type JobView } from '../song';
import { cancelJob } from './upload';

const DONE_SHOWN_MS = 2500;
const NOTICE_SHOWN_MS = 8000;

/** What goes on in the background, and what was said. In a corner, over the page; errors stay until they are dismissed. */
export function Tray() {
  const jobs = useJobs((store) => store.jobs);
  const notices = useSongStore((store) => store.notices);
  const imports = Object.values(jobs).filter((job) => job.kind === 'import' && job.state !== 'cancelled');
  if (imports.length === 0 && notices.length === 0) return null;
  return (
    <Corner aria-label="What goes on" aria-live="polite">
      {imports.map((job) => (
        <ImportLine key={job.id} job={job} />
      ))}
      {notices.map((notice) => (
        <NoticeLine key={notice.id} {...notice} />
      ))}
    </Corner>
  );
}

function ImportLine({ job }: { job: JobView }) {
  const remove = useJobs((store) => store.remove);
  useEffect(() => {
    if (job.state !== 'done') return;
    const timer = setTimeout(() => remove(job.id), DONE_SHOWN_MS);
    return () => clearTimeout(timer);
  }, [job.state, job.id, remove]);

  if (job.state === 'failed') {
    return (
      <Line $problem role="alert">
        <p>
          {job.error?.message} {job.error?.kept}
        </p>
        <TextButton onPress={() => remove(job.id)}>Dismiss</TextButton>
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
        <TextButton aria-label={`Cancel ${job.name}`} onPress={() => cancelJob(job.id)}>
          Cancel
        </TextButton>
      )}
      <Progress label={`Import of ${job.name}`} value={job.progress} />
    </Line>
  );
}

function NoticeLine({ id, tone, text }: { id: number; tone: 'error' | 'plain'; text: string }) {
  const dismiss = useSongStore((store) => store.dismiss);
  useEffect(() => {
    if (tone === 'error') return;
    const timer = setTimeout(() => dismiss(id), NOTICE_SHOWN_MS);
    return () => clearTimeout(timer);
  }, [id, tone, dismiss]);
  return (
    <Line $problem={tone === 'error'} role={tone === 'error' ? 'alert' : 'status'}>
      <p>{text}</p>
      <TextButton onPress={() => dismiss(id)}>Dismiss</TextButton>
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
const Line = styled.div<{ $problem?: boolean }>`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 5px 14px;
  align-items: start;
  padding: 8px 12px;
  border-bottom: 1px solid var(--grid);
  ${({ $problem }) => $problem && 'border-left: 4px solid var(--accent);'}
  p {
    display: flex;
    gap: 10px;
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
  > :last-child:not(button, p) {
    grid-column: 1 / -1;
  }
  &:last-child {
    border-bottom: 0;
  }
`;
