'use client';
import { useState } from 'react';
import styled from 'styled-components';
import { SUPPORTED_RATES_HZ, USUAL_RATE_HZ } from '@/core/song';
import { Choice } from '../../kit/controls/choice';
import { TitleDialog } from './title-dialog';

const RATES = SUPPORTED_RATES_HZ.map((hz) => ({ id: String(hz), name: `${hz / 1000} kHz` }));

interface NewSongDialogProps {
  isOpen: boolean;
  onClose: () => void;
  onDone: (title: string, rateHz: number) => void;
}

/** Asks for what a song begins with. Its sample rate is asked here, since everything in it runs at that. */
export function NewSongDialog({ isOpen, onClose, onDone }: NewSongDialogProps) {
  const [rateHz, setRateHz] = useState(String(USUAL_RATE_HZ));
  return (
    <TitleDialog
      heading="New song"
      action="Make it"
      initial=""
      isOpen={isOpen}
      onClose={onClose}
      onDone={(title) => onDone(title, Number(rateHz))}
    >
      <Rate>
        <span>Sample rate</span>
        <Choice label="Sample rate" value={rateHz} options={RATES} onChange={setRateHz} width={110} />
        <small>Where the first recordings have another one, you are asked; later ones are converted.</small>
      </Rate>
    </TitleDialog>
  );
}

const Rate = styled.div`
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 6px 10px;
  align-items: center;
  margin-top: 12px;
  small {
    grid-column: 1 / -1;
    color: var(--soft);
    font-size: 12px;
  }
`;
