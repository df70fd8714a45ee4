'use client';
import { useState } from 'react';
import { TextArea, TextField } from 'react-aria-components';
import { useShallow } from 'zustand/react/shallow';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import { writeLength } from '@/core/formats';
import { PROOF_KBPS, proofBytes, sizeWords, type ProofKbps } from '@/core/proof';
import { partSpans } from '@/core/renders';
import { songLengthFrames } from '@/core/song';
import { Button } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Choice } from '../../kit/controls/choice';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { useDesk } from '../../window/desk/desk';
import { whenSaved } from '../../window/outbox/link';
import { useJobs, type JobView } from '../../window/server/jobs-store';
import { request } from '../../window/server/request';
import { songOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';
import { useRendering } from '../render/rendering-store';
import { useProof } from './proof-store';

const WHOLE = 'whole';
const QUALITIES: { id: string; name: string }[] = PROOF_KBPS.map((kbps) => ({
  id: String(kbps),
  name: `${kbps} kbit/s`,
}));

/** Makes one page for the client; what is being made and what was made stands in the render sheet. */
export function ProofDialog() {
  const desk = useDesk();
  const isOpen = useProof((proof) => proof.isOpen);
  const close = () => useProof.of(desk).setOpen(false);
  return (
    <Dialog title="Before and after for the client" isOpen={isOpen} onClose={close} width={620}>
      <ProofSheet onClose={close} />
    </Dialog>
  );
}

function ProofSheet({ onClose }: { onClose: () => void }) {
  const desk = useDesk();
  const order = useProof((proof) => proof.order);
  const change = useProof((proof) => proof.change);
  const [problem, setProblem] = useState<string | null>(null);
  const strips = useSong(
    useShallow((song) => [...song.tracks, ...song.buses].map(({ id, name }) => `${id}/${name}`)),
  ).map((line) => ({ id: line.slice(0, line.indexOf('/')), name: line.slice(line.indexOf('/') + 1) }));
  const seconds = useSong((song) =>
    order.span ? order.span.endSeconds - order.span.startSeconds : songLengthFrames(song) / song.rateHz,
  );
  const parts = useSong(useShallow((song) => partSpans(song).map(({ name }, i) => `${i} ${name}`)));
  const loop = useSong((song) => song.loop !== null);
  const span = order.span ? order.span.name : WHOLE;
  const spans = [
    { id: WHOLE, name: 'The whole song' },
    ...(loop ? [{ id: 'loop', name: 'The loop' }] : []),
    ...parts.map((part) => ({ id: part, name: part.slice(part.indexOf(' ') + 1) })),
  ];
  const chooseSpan = (id: string) => {
    const song = songOf(desk);
    const part = partSpans(song)[Number.parseInt(id, 10)];
    if (id === WHOLE) change({ span: null });
    else if (id === 'loop' && song.loop)
      change({ span: { name: 'loop', startSeconds: song.loop.startSeconds, endSeconds: song.loop.endSeconds } });
    else if (part) change({ span: part });
  };
  const chosen = new Set(order.strips);
  const flip = (id: string) =>
    change({
      strips: strips.map((strip) => strip.id).filter((other) => (other === id ? !chosen.has(id) : chosen.has(other))),
    });
  const attempt = async (work: () => Promise<void>) => {
    setProblem(null);
    try {
      await whenSaved(desk);
      await work();
    } catch (thrown) {
      const { message, kept } = asOrvidError(thrown);
      setProblem([message, kept].filter(Boolean).join(' '));
    }
  };
  const make = () =>
    attempt(async () => {
      const { job } = await request<{ job: JobView }>('POST', `/api/songs/${desk.songId}/proof`, order);
      if (!useJobs.of(desk).jobs[job.id]) useJobs.of(desk).put(job);
      onClose();
      useRendering.of(desk).setOpen(true);
    });
  const chosenSpan = spans.find(({ id, name }) => id === span || name === span)?.id ?? WHOLE;
  return (
    <>
      <p>
        One file that opens in any browser, without a network: both sides at the same loudness, changed without a click.
      </p>
      <Rows>
        <span>Of</span>
        <Line>
          <span>the mix, and by themselves:</span>
          <Strips role="group" aria-label="Tracks by themselves">
            {strips.map(({ id, name }) => (
              <Checkbox key={id} isChecked={chosen.has(id)} onToggle={() => flip(id)}>
                <span>{name}</span>
              </Checkbox>
            ))}
          </Strips>
        </Line>
        <span>Where</span>
        <Choice label="Which stretch" value={chosenSpan} options={spans} width={190} onChange={chooseSpan} />
        <span>Sound</span>
        <Choice
          label="Quality"
          value={String(order.kbps)}
          options={QUALITIES}
          width={130}
          onChange={(kbps) => change({ kbps: Number(kbps) as ProofKbps })}
        />
        <Top>Notes</Top>
        <TextField
          aria-label="Notes for the client"
          value={order.notes}
          onChange={(notes) => change({ notes })}
          maxLength={4000}
        >
          <Notes rows={4} placeholder="what to listen for" />
        </TextField>
        <span />
        <Checkbox isChecked={order.tellsMoves} onToggle={() => change({ tellsMoves: !order.tellsMoves })}>
          <span>Tell what was done, in words</span>
        </Checkbox>
      </Rows>
      {problem && <Problem role="alert">{problem}</Problem>}
      <DialogActions>
        <Size>
          {writeLength(seconds)}, {1 + order.strips.length} × before and after: about{' '}
          {sizeWords(proofBytes(order, seconds))}
        </Size>
        <Button
          data-hint="The page as it will be, without its sound"
          onPress={() =>
            void attempt(async () => {
              const query = encodeURIComponent(JSON.stringify(order));
              window.open(`/api/songs/${desk.songId}/proof?order=${query}`, '_blank', 'noopener');
            })
          }
        >
          Look at it first
        </Button>
        <Button $strong onPress={() => void make()}>
          Make it
        </Button>
      </DialogActions>
    </>
  );
}

const Rows = styled.div`
  display: grid;
  grid-template-columns: 58px minmax(0, 1fr);
  gap: 9px 10px;
  align-items: baseline;
  margin-top: 14px;
  > span {
    color: var(--soft);
  }
`;
const Top = styled.span`
  align-self: start;
  padding-top: 7px;
`;
const Line = styled.div`
  min-width: 0;
`;
const Strips = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 0 12px;
  /* So that a row is seen to be cut where there are more. */
  max-height: 133px;
  overflow-y: auto;
  label > span:last-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
const Notes = styled(TextArea)`
  width: 100%;
  padding: 6px 9px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  font: inherit;
  resize: vertical;
`;
const Size = styled.p`
  flex: 1;
  align-self: center;
  color: var(--soft);
`;
const Problem = styled.p`
  margin-top: 8px;
  color: var(--accent);
  font-weight: 600;
`;
