'use client';
import { Button } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { WordLines } from '../../kit/controls/panel';
import { useEyes } from './eyes-store';

/** What was changed while the eyes were off. */
export function EyesReport() {
  const changes = useEyes((eyes) => eyes.changes);
  const read = useEyes((eyes) => eyes.read);
  return (
    <Dialog title="Changed with eyes off" isOpen={changes !== null} onClose={read}>
      <WordLines>
        {changes?.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </WordLines>
      <DialogActions>
        <Button $strong onPress={read}>
          Look
        </Button>
      </DialogActions>
    </Dialog>
  );
}
