'use client';
import { FileTrigger } from 'react-aria-components';
import { Button } from '../../kit/controls/button';
import { useDesk } from '../../window/desk/desk';
import { uploadsOf } from './upload';

export const AUDIO_FILES = [
  '.wav',
  '.wave',
  '.rf64',
  '.aif',
  '.aiff',
  '.aifc',
  '.flac',
  '.mp3',
  '.ogg',
  '.oga',
  '.opus',
  'audio/*',
];

/** Asks for recordings to become tracks. */
export function AddRecordingsButton() {
  const desk = useDesk();
  return (
    <FileTrigger
      allowsMultiple
      acceptedFileTypes={AUDIO_FILES}
      onSelect={(files) => files && void uploadsOf(desk).add(files)}
    >
      <Button $strong>Choose recordings…</Button>
    </FileTrigger>
  );
}
