'use client';
import { useRef } from 'react';
import styled from 'styled-components';
import { writePlace } from '@/core/grid';
import { writeTime } from '@/core/formats';
import { arrowDirection } from '../../kit/gestures/steps';
import { SERIF } from '../../kit/theme/tokens';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { documentOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { useSession } from '../../window/sound/session-store';
import { snappedTime, steppedTime } from '../../window/view/snap';
import { useSongView } from '../../window/view/song-view';
import { movePart, removePart } from '../../work/passages/part-edits';
import { loopPart } from '../../work/transport/loop-edits';
import type { StripView } from './strip-view';
import { isDeleteKey } from '../../kit/gestures/plain-key';

interface PartNameProps {
  index: number;
  name: string;
  lengthSeconds: number;
  /** How far it stands behind the part's beginning, px: it stays in sight while the part lasts. */
  offset: number;
  isInSight: boolean;
  view: StripView;
}

/** What a part's name is taken hold of by; the name itself is drawn (`draw-parts.ts`). A click loops the part, a drag or the arrow keys move its beginning, Delete takes it away. */
export function PartName({ index, name, lengthSeconds, offset, isInSight, view }: PartNameProps) {
  const desk = useDesk();
  const isMoved = useRef(false);
  const parts = useSongStore(({ state }) => state.document.parts);
  const grid = useSongStore(({ state }) => state.document.grid);
  const at = parts[index]?.startSeconds ?? 0;
  const edit = useSongStore((store) => store.edit);
  const editByKey = useSongStore((store) => store.editByKey);
  return (
    <Name
      type="button"
      aria-label={name}
      style={{ marginLeft: offset }}
      data-hint={`${name}, from ${grid ? `bar ${writePlace(grid, at)}` : writeTime(at)} · click to loop it · drag it, or ← →, to move where it begins · Delete takes it away`}
      onPointerDown={(event) => {
        isMoved.current = false;
        dragEdit(desk, event, 'Move a part', ({ dx, isFine }) => {
          isMoved.current = true;
          return movePart({ ...documentOf(desk), parts }, index, snappedTime(desk, at + dx / view.perSecond(), isFine));
        });
      }}
      // What the keyboard reaches comes into sight.
      onFocus={(event) => event.target.matches(':focus-visible') && !isInSight && useSongView.of(desk).reveal(at)}
      onClick={() => {
        if (isMoved.current) return;
        edit(loopPart(documentOf(desk), index, lengthSeconds), 'Loop a part');
        useSession.of(desk).seek(at);
      }}
      onKeyDown={(event) => {
        isMoved.current = false;
        const arrow = arrowDirection(event);
        const song = documentOf(desk);
        if (isDeleteKey(event)) edit(removePart(song, index), 'Remove a part');
        else if (arrow?.axis === 'x')
          editByKey(
            movePart(song, index, steppedTime(desk, at, arrow.direction, event.shiftKey)),
            'Move a part',
            `part/${name}`,
          );
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      <span aria-hidden>{name}</span>
    </Name>
  );
}

const Name = styled.button`
  white-space: nowrap;
  height: 24px;
  padding: 0 5px 8px;
  border: 0;
  background: none;
  font: italic 400 12.5px/15px ${SERIF};
  pointer-events: auto;
  cursor: default;
  /* Only as wide as the drawn name, until the pointer is on it. */
  span {
    background: var(--paper);
    visibility: hidden;
    color: var(--claim);
  }
  &:hover span {
    visibility: visible;
  }
  /* Where the system chooses the colours, buttons cover what is drawn below them. */
  @media (forced-colors: active) {
    span {
      visibility: visible;
    }
  }
`;
