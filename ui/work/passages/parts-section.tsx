'use client';
import { parseSeconds, writeMoment } from '@/core/formats';
import { writePlace } from '@/core/grid';
import { TextButton } from '../../kit/controls/button';
import { PanelLine } from '../../kit/controls/panel';
import { ValueField, words } from '../../kit/controls/value-field';
import { useDesk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { useSong } from '../../window/song/song-store';
import { positionSeconds } from '../../window/sound/audio-state';
import { useSession } from '../../window/sound/session-store';
import { snappedTime } from '../../window/view/snap';
import { useOfferedParts } from './offered-parts';
import { addPart, editParts, movePart, removePart, renamePart, takeParts } from './part-edits';
import { TimeRows } from './time-rows';

/** The named parts of the song: each lasts until the next one begins. */
export function PartsSection() {
  const desk = useDesk();
  const parts = useSong((song) => song.parts);
  const grid = useSong((song) => song.grid);
  const { offers, forget } = useOfferedParts();
  const add = () => {
    const made = editParts(
      desk,
      (song) => addPart(song, snappedTime(desk, positionSeconds(desk)), `Part ${song.parts.length + 1}`),
      'New part',
    );
    if (!made) tell(desk, 'A part begins here already.');
  };
  return (
    <>
      <h2>Parts</h2>
      <PanelLine>
        <TextButton data-hint="Begins where the playhead stands" onPress={add}>
          + A part begins here
        </TextButton>
      </PanelLine>
      {offers.map(({ fileName, parts: offered }) => (
        <PanelLine key={fileName}>
          <span>
            {offered.length === 1 ? 'One marker' : `${offered.length} markers`} of “{fileName}”
          </span>
          <TextButton
            data-hint={offered
              .map(({ name }) => name)
              .join(', ')
              .slice(0, 200)}
            onPress={() => {
              if (editParts(desk, (song) => takeParts(song, offered), 'Parts from markers')) forget();
            }}
          >
            Take as parts
          </TextButton>
        </PanelLine>
      ))}
      <TimeRows>
        {parts.map((part, i) => (
          <li key={`${i} ${part.name}`}>
            <ValueField
              label={`Name of part ${i + 1}`}
              shown={part.name}
              parse={words(1)}
              example="Refrain"
              maxLength={120}
              width={108}
              onCommit={(name) => editParts(desk, (song) => renamePart(song, i, name), 'Rename a part')}
            />
            <ValueField
              label={`${part.name} begins at`}
              shown={writeMoment(part.startSeconds)}
              parse={parseSeconds}
              example="1:05.25"
              width={68}
              look="plain"
              onCommit={(at) => editParts(desk, (song) => movePart(song, i, at), 'Move a part')}
            />
            <TextButton
              aria-label={`Go to ${part.name}`}
              data-hint={grid ? `Bar ${writePlace(grid, part.startSeconds)}` : 'Goes there'}
              onPress={() => useSession.of(desk).seek(part.startSeconds)}
            >
              Go
            </TextButton>
            <TextButton
              aria-label={`Remove the part ${part.name}`}
              onPress={() => editParts(desk, (song) => removePart(song, i), 'Remove a part')}
            >
              ×
            </TextButton>
          </li>
        ))}
      </TimeRows>
    </>
  );
}
