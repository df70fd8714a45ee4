'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { FileTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { asOrvidError, OrvidError } from '@/core/errors';
import { Button, TextButton } from '../../kit/controls/button';
import { Progress } from '../../kit/controls/progress';
import type { JobView } from '../../window/server/jobs-store';
import { askBeforeLeaving } from '../../window/server/leave';
import { errorOf, request } from '../../window/server/request';

const ASK_EVERY_MS = 300;

type Stage =
  | { kind: 'idle' }
  | { kind: 'sending'; name: string; progress: number; call: XMLHttpRequest }
  | { kind: 'reading'; job: JobView & { songId: string } }
  | { kind: 'lacking'; songId: string; remark: string };

/** Sends a file, and tells how far it is. @throws OrvidError */
function send(file: File, begin: (call: XMLHttpRequest) => void, tell: (progress: number) => void) {
  return new Promise<JobView & { songId: string }>((resolve, reject) => {
    const call = new XMLHttpRequest();
    call.open('POST', `/api/bundles?name=${encodeURIComponent(file.name)}`);
    call.setRequestHeader('content-type', 'application/octet-stream');
    call.upload.onprogress = ({ loaded, total }) => tell(total > 0 ? loaded / total : 0);
    call.onload = () => {
      const answer = JSON.parse(call.responseText || '{}') as { job?: JobView & { songId: string } };
      if (call.status === 200 && answer.job) resolve(answer.job);
      else reject(errorOf(answer, call.status));
    };
    call.onerror = () => reject(new Error(`“${file.name}” could not be sent: the server cannot be reached.`));
    call.onabort = () => reject(new DOMException('cancelled', 'AbortError'));
    call.onloadend = askBeforeLeaving();
    begin(call);
    call.send(file);
  });
}

/** Makes a song of a file that was packed, here or on another machine: chosen, or dropped on the page. */
export function OpenBundle({ onProblem, onMade }: { onProblem: (thrown: unknown) => void; onMade: () => void }) {
  const router = useRouter();
  const [stage, setStage] = useState<Stage>({ kind: 'idle' });
  const isGone = useRef(false);
  useEffect(
    () => () => {
      isGone.current = true;
    },
    [],
  );

  const follow = async (id: string) => {
    while (!isGone.current) {
      const { job } = await request<{ job: JobView & { songId: string } }>('GET', `/api/jobs/${id}`);
      if (isGone.current) return;
      if (job.state === 'failed') {
        setStage({ kind: 'idle' });
        onProblem(
          new OrvidError(
            job.error?.code ?? 'internal',
            job.error?.message ?? 'It could not be opened.',
            job.error?.kept,
          ),
        );
        return;
      }
      if (job.state === 'cancelled') return setStage({ kind: 'idle' });
      if (job.state === 'done') {
        if (!job.remark) router.push(`/songs/${job.songId}`);
        else {
          setStage({ kind: 'lacking', songId: job.songId, remark: job.remark });
          onMade();
        }
        return;
      }
      setStage({ kind: 'reading', job });
      await new Promise((done) => setTimeout(done, ASK_EVERY_MS));
    }
  };
  const open = async (file: File | undefined) => {
    if (!file) return;
    try {
      let call: XMLHttpRequest | undefined;
      const job = await send(
        file,
        (begun) => {
          call = begun;
          setStage({ kind: 'sending', name: file.name, progress: 0, call: begun });
        },
        (progress) => call && setStage({ kind: 'sending', name: file.name, progress, call }),
      );
      await follow(job.id);
    } catch (thrown) {
      setStage({ kind: 'idle' });
      if ((thrown as Error).name !== 'AbortError') onProblem(asOrvidError(thrown));
    }
  };
  const latest = useRef(open);
  useEffect(() => {
    latest.current = open;
  });
  useEffect(() => {
    const over = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      void latest.current(event.dataTransfer?.files[0]);
    };
    window.addEventListener('dragover', over);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('drop', drop);
    };
  }, []);

  if (stage.kind === 'sending' || stage.kind === 'reading') {
    const name = stage.kind === 'sending' ? stage.name : stage.job.name;
    const cancel = () =>
      stage.kind === 'sending'
        ? stage.call.abort()
        : void request('DELETE', `/api/jobs/${stage.job.id}`).catch(onProblem);
    return (
      <Underway>
        <Progress label={name} value={stage.kind === 'sending' ? stage.progress : stage.job.progress} />
        <span>
          {name}: {stage.kind === 'sending' ? 'sending' : stage.job.step}
        </span>
        <TextButton onPress={cancel}>Cancel</TextButton>
      </Underway>
    );
  }
  return (
    <>
      <FileTrigger acceptedFileTypes={['.zip']} onSelect={(files) => void open(files?.[0])}>
        <Button>Open a packed song…</Button>
      </FileTrigger>
      {stage.kind === 'lacking' && (
        <Underway role="status">
          <span>{stage.remark}</span>
          <TextButton onPress={() => router.push(`/songs/${stage.songId}`)}>Open the song</TextButton>
        </Underway>
      )}
    </>
  );
}

const Underway = styled.div`
  display: grid;
  /* Below what stands beside it. */
  order: 1;
  grid-column: 1 / -1;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 4px 14px;
  align-items: center;
  padding-top: 12px;
  > :first-child:not(span) {
    grid-column: 1 / -1;
  }
`;
