'use client';
import styled from 'styled-components';
import { Button, Dialog, DialogActions } from '../controls';
import { useEyes } from './eyes-store';

/** What was changed while the eyes were off. */
export function EyesReport() {
  const changes = useEyes((eyes) => eyes.changes);
  const read = useEyes((eyes) => eyes.read);
  return (
    <Dialog title="Changed with eyes off" isOpen={changes !== null} onClose={read}>
      <Lines>
        {changes?.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </Lines>
      <DialogActions>
        <Button $strong onPress={read}>
          Look
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const Lines = styled.ul`
  max-height: 50vh;
  margin: 0;
  padding: 0 0 0 18px;
  overflow-y: auto;
`;
