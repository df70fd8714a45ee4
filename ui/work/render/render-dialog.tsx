'use client';
import { useState } from 'react';
import { Radio, RadioGroup } from 'react-aria-components';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import { writeLength, type RenderFormat } from '@/core/formats';
import { leftOutText, songLengthFrames } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { Button } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { Progress } from '../../kit/controls/progress';
import { request } from '../../window/server/request';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { useSong } from '../../window/song/song-store';
import { useRendering } from './rendering-store';

const FORMATS: { id: RenderFormat; name: string; what: string }[] = [
  { id: '24', name: '24 bit', what: 'for handing on; full scale is the limit' },
  { id: '16', name: '16 bit', what: 'with triangular dither, for listening' },
  { id: '32f', name: '32-bit float', what: 'for further work; nothing can clip' },
];

/** The mix to a WAV file: format, progress, the finished file. The work goes on when the sheet is closed. */
export function RenderDialog() {
  const desk = useDesk();
  const isOpen = useRendering((rendering) => rendering.isOpen);
  const close = () => useRendering.of(desk).setOpen(false);
  return (
    <Dialog title="Render the mix" isOpen={isOpen} onClose={close} width={440}>
      <RenderSheet onClose={close} />
    </Dialog>
  );
}

const inFull = ({ message, kept }: { message: string; kept?: string }) => [message, kept].filter(Boolean).join(' ');

function RenderSheet({ onClose }: { onClose: () => void }) {
  const desk = useDesk();
  const [format, setFormat] = useState<RenderFormat>('24');
  const [problem, setProblem] = useState<string | null>(null);
  // The newest render of this window, also when the sheet was closed meanwhile.
  const job = useJobs((store) => Object.values(store.jobs).findLast((job) => job.kind === 'render'));
  const title = useSong((song) => song.title);
  const rateHz = useSong((song) => song.rateHz);
  const missing = useSong(leftOutText);
  const seconds = useSong((song) => songLengthFrames(song) / song.rateHz);

  const start = async () => {
    setProblem(null);
    if (job) useJobs.of(desk).remove(job.id);
    try {
      const answer = await request<{ job: JobView }>('POST', `/api/songs/${desk.songId}/renders`, { format });
      if (!useJobs.of(desk).jobs[answer.job.id]) useJobs.of(desk).put(answer.job);
    } catch (thrown) {
      setProblem(inFull(asOrvidError(thrown)));
    }
  };
  // Of a job that has begun it is the job that tells how it ends.
  const said = job ? job.error && inFull(job.error) : problem;

  return (
    <>
      <p>
        “{title}”, the whole song: {writeLength(seconds)}, {rateHz / 1000} kHz, stereo, as a WAV file.
      </p>
      {missing && <Missing role="status">{missing}</Missing>}
      <Formats
        aria-label="Sample format"
        value={format}
        onChange={(value) => setFormat(value as RenderFormat)}
        isDisabled={job?.state === 'running'}
      >
        {FORMATS.map(({ id, name, what }) => (
          <Format key={id} value={id}>
            <i aria-hidden />
            <b>{name}</b>
            <span>{what}</span>
          </Format>
        ))}
      </Formats>
      <div aria-live="polite">
        {job?.state === 'running' && (
          <Running>
            <Progress label="Render" value={job.progress} />
            <p>
              {job.step} {writeLength(job.progress * seconds)} of {writeLength(seconds)}
            </p>
          </Running>
        )}
        {job?.state === 'done' && (
          <Done>
            <a href={`/api/renders/${job.resultId}`} download={job.name}>
              Take {job.name}
            </a>
            {job.remark && <p>{job.remark}</p>}
          </Done>
        )}
        {job?.state === 'cancelled' && <p>The render was cancelled. Nothing of it was kept.</p>}
        {said && <Problem role="alert">{said}</Problem>}
      </div>
      <DialogActions>
        {job?.state === 'running' ? (
          <Button onPress={() => void request('DELETE', `/api/jobs/${job.id}`).catch(() => undefined)}>
            Cancel the render
          </Button>
        ) : (
          <Button onPress={onClose}>Close</Button>
        )}
        <Button $strong isDisabled={job?.state === 'running' || seconds === 0} onPress={() => void start()}>
          Render
        </Button>
      </DialogActions>
    </>
  );
}

const Formats = styled(RadioGroup)`
  display: grid;
  gap: 2px;
  margin: 14px 0;
`;
const Format = styled(Radio)`
  display: grid;
  grid-template-columns: 16px 96px 1fr;
  align-items: center;
  gap: 8px;
  padding: 4px 6px;
  border-radius: 3px;
  b {
    font-weight: 600;
  }
  span {
    color: var(--soft);
  }
  i {
    width: 13px;
    height: 13px;
    border: 1.5px solid var(--soft);
    border-radius: 50%;
  }
  &[data-selected] {
    background: var(--paper);
  }
  &[data-selected] i {
    border: 4px solid var(--ink);
  }
`;
const Missing = styled.p`
  margin-top: 6px;
  color: var(--accent);
  font-weight: 500;
`;
const Running = styled.div`
  p {
    margin-top: 5px;
    color: var(--soft);
  }
`;
const Done = styled.div`
  a {
    color: var(--claim);
    font-weight: 600;
  }
  p {
    margin-top: 6px;
  }
`;
const Problem = styled.p`
  color: var(--accent);
  font-weight: 600;
`;
