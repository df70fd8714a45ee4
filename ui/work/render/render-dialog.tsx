'use client';
import { useState } from 'react';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import { writeBytes } from '@/core/formats';
import { plannedFiles, type RenderOrder } from '@/core/renders';
import type { Song } from '@/core/song';
import { useDesk, type Desk } from '../../window/desk/desk';
import { Button } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { whenSaved } from '../../window/outbox/link';
import { request } from '../../window/server/request';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { documentOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';
import { FinishedList } from './finished-list';
import { LineList } from './line-list';
import { offeredSpans, OrderForm } from './order-form';
import { useRendering } from './rendering-store';

/** What is made of a song to hand on: orders on the left, what is being made and what was made on the right. The work goes on when the sheet is closed. */
export function RenderDialog() {
  const desk = useDesk();
  const isOpen = useRendering((rendering) => rendering.isOpen);
  const close = () => useRendering.of(desk).setOpen(false);
  return (
    <Dialog title="Render" isOpen={isOpen} onClose={close} width={980}>
      <RenderSheet onClose={close} />
    </Dialog>
  );
}

const orderWith = (song: Song, order: RenderOrder, keys: readonly string[]): RenderOrder => ({
  ...order,
  spans: offeredSpans(song).flatMap(({ key, span }) => (keys.includes(key) ? [span] : [])),
});

/** About how large the files become. FLAC: what it comes to with music. */
function bytesOf(song: Song, order: RenderOrder): number {
  const { file, bits } = order.settings;
  const pcm = song.rateHz * 2 * { '16': 2, '24': 3, '32f': 4 }[bits];
  const perSecond = file === 'mp3' ? 24000 : file === 'flac' ? 0.6 * pcm : pcm;
  return plannedFiles(song, order).reduce(
    (sum, { span }) => sum + perSecond * (span.endSeconds - span.startSeconds),
    0,
  );
}

async function startOrder(desk: Desk): Promise<void> {
  await whenSaved(desk);
  const { order, spans } = useRendering.of(desk);
  const { jobs } = await request<{ jobs: JobView[] }>(
    'POST',
    `/api/songs/${desk.songId}/renders`,
    orderWith(documentOf(desk), order, spans),
  );
  for (const job of jobs) if (!useJobs.of(desk).jobs[job.id]) useJobs.of(desk).put(job);
}

function RenderSheet({ onClose }: { onClose: () => void }) {
  const desk = useDesk();
  const [problem, setProblem] = useState<string | null>(null);
  const order = useRendering((rendering) => rendering.order);
  const spans = useRendering((rendering) => rendering.spans);
  const plan = useSong(
    useShallow((song) => {
      const whole = orderWith(song, order, spans);
      const files = plannedFiles(song, whole);
      return { count: files.length, first: files[0]?.name ?? '', bytes: bytesOf(song, whole), rateHz: song.rateHz };
    }),
  );
  const start = async () => {
    setProblem(null);
    try {
      await startOrder(desk);
    } catch (thrown) {
      const { message, kept } = asOrvidError(thrown);
      setProblem([message, kept].filter(Boolean).join(' '));
    }
  };
  return (
    <>
      <Halves>
        <OrderForm />
        <section>
          <LineList />
          <FinishedList />
        </section>
      </Halves>
      {problem && <Problem role="alert">{problem}</Problem>}
      <DialogActions>
        <Summary>
          {plan.count === 0
            ? 'Nothing is chosen.'
            : `${plan.count === 1 ? plan.first : `${plan.count} files, the first ${plan.first}`}: about ${writeBytes(plan.bytes)}, ${plan.rateHz / 1000} kHz, stereo`}
        </Summary>
        <Button onPress={onClose}>Close</Button>
        <Button $strong isDisabled={plan.count === 0} onPress={() => void start()}>
          {plan.count > 1 ? `Render ${plan.count} files` : 'Render'}
        </Button>
      </DialogActions>
    </>
  );
}

const Halves = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 28px;
  > * {
    max-height: calc(86vh - 150px);
    /* Rings of focus at the left edge are not cut. */
    margin-left: -4px;
    padding-left: 4px;
    overflow-y: auto;
  }
  section p {
    color: var(--soft);
  }
  @media (max-width: 760px) {
    grid-template-columns: minmax(0, 1fr);
    max-height: calc(86vh - 150px);
    overflow-y: auto;
    > * {
      max-height: none;
      overflow: visible;
    }
  }
`;
const Summary = styled.p`
  flex: 1;
  align-self: center;
  min-width: 0;
  color: var(--soft);
  overflow-wrap: anywhere;
`;
const Problem = styled.p`
  margin-top: 8px;
  color: var(--accent);
  font-weight: 600;
`;
