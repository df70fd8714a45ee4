'use client';
import { useState, type ReactNode } from 'react';
import { Button } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { TextField } from '../../kit/controls/text-field';

interface TitleDialogProps {
  heading: string;
  action: string;
  initial: string;
  isOpen: boolean;
  onClose: () => void;
  onDone: (title: string) => void;
  /** What is asked beside the title. */
  children?: ReactNode;
}

/** Asks for the title of a song. */
export function TitleDialog({ heading, action, initial, isOpen, onClose, onDone, children }: TitleDialogProps) {
  const [title, setTitle] = useState(initial);
  return (
    <Dialog title={heading} isOpen={isOpen} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (title.trim()) onDone(title.trim());
        }}
      >
        <TextField label="Title" value={title} onChange={setTitle} maxLength={120} autoFocus />
        {children}
        <DialogActions>
          <Button onPress={onClose}>Cancel</Button>
          <Button $strong type="submit" isDisabled={!title.trim()}>
            {action}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
