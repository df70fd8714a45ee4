'use client';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { SERIF } from '../theme';
import { uploadFiles } from './upload';

const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;

/** Files may be dropped anywhere on the page. */
export function DropArea() {
  const [isOver, setIsOver] = useState(false);
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setIsOver(true);
    };
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setIsOver(false);
    };
    const drop = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      event.preventDefault();
      setIsOver(false);
      uploadFiles(event.dataTransfer!.files);
    };
    window.addEventListener('dragover', over);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('dragover', over);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);
  return isOver ? <Sheet>Drop them here: each becomes a track</Sheet> : null;
}

const Sheet = styled.div`
  position: fixed;
  inset: 12px;
  z-index: 30;
  display: grid;
  place-items: center;
  border: 2px dashed var(--claim);
  background: color-mix(in srgb, var(--paper) 84%, transparent);
  color: var(--claim);
  font: italic 400 26px ${SERIF};
  pointer-events: none;
`;
