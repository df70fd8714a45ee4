'use client';
import { writePlace } from '@/core/grid';
import { writeTime } from '@/core/formats';
import { Banner } from '../../kit/controls/banner';
import { TextButton, ToggleButton } from '../../kit/controls/button';
import { useDesk } from '../../window/desk/desk';
import { useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import { closePassage } from './passage-edits';

/** Says without doubt that a passage is open, and what that means. */
export function PassageBanner() {
  const desk = useDesk();
  const passageId = useOpenPassage((open) => open.passageId);
  const isRecording = useOpenPassage((open) => open.isRecording);
  const record = useOpenPassage((open) => open.record);
  const passage = useSongStore(({ state }) => state.document.passages.find(({ id }) => id === passageId));
  const grid = useSongStore(({ state }) => state.document.grid);
  if (!passage) return null;
  const write = (seconds: number) => (grid ? writePlace(grid, seconds) : writeTime(seconds));
  return (
    <Banner role="status">
      <b>{passage.name}</b>
      <span>
        {write(passage.startSeconds)} to {write(passage.endSeconds)} is open: what you change differs there only.
      </span>
      <ToggleButton
        isSelected={isRecording}
        data-hint="What is moved while it plays becomes a line · R"
        onChange={record}
      >
        {isRecording ? 'Recording: play, and move' : 'Record'}
      </ToggleButton>
      <TextButton data-hint="The song is as it was outside · Escape" onPress={() => closePassage(desk)}>
        Close
      </TextButton>
    </Banner>
  );
}
