'use client';
import { useEffect, useRef } from 'react';
import { Button, FileTrigger } from 'react-aria-components';
import { useDesk } from '../../window/desk/desk';
import { CHOSEN_FILES } from './audio-files';
import { arrivedWith } from './rate-question';
import { RateSheet } from './rate-sheet';
import { Tray } from './tray';
import { uploadsOf } from './upload';

/** Files that come in, and the file dialog for those who ask for it by name. */
export function RecordingsSheets() {
  const desk = useDesk();
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    uploadsOf(desk).choose = () => button.current?.click();
    const files = arrivedWith(desk.songId);
    if (files.length > 0) void uploadsOf(desk).add(files);
  }, [desk]);
  return (
    <>
      <FileTrigger
        allowsMultiple
        acceptedFileTypes={CHOSEN_FILES}
        onSelect={(files) => files && void uploadsOf(desk).add(files)}
      >
        <Button ref={button} style={{ display: 'none' }} />
      </FileTrigger>
      <RateSheet />
      <Tray />
    </>
  );
}
