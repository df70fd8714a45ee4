'use client';
import { FileTrigger } from 'react-aria-components';
import { Button } from '../../kit/controls/button';
import { useDesk } from '../../window/desk/desk';
import { CHOSEN_FILES } from './audio-files';
import { uploadsOf } from './upload';

/** Asks for recordings to become tracks. */
export function AddRecordingsButton() {
  const desk = useDesk();
  return (
    <FileTrigger
      allowsMultiple
      acceptedFileTypes={CHOSEN_FILES}
      onSelect={(files) => files && void uploadsOf(desk).add(files)}
    >
      <Button $strong>Choose recordings…</Button>
    </FileTrigger>
  );
}
