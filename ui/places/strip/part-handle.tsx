'use client';
import styled from 'styled-components';
import { writePlace } from '@/core/grid';
import { writeTime } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { documentOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { snappedTime, steppedTime } from '../../window/view/snap';
import { arrowDirection } from '../../kit/gestures/steps';
import { movePart, removePart } from '../../work/passages/part-edits';

/** The line at which a part begins: drawn elsewhere, moved by keys, or taken away. */
export function PartHandle({ index, name, perSecond }: { index: number; name: string; perSecond: number }) {
  const desk = useDesk();
  const { parts, grid } = documentOf(desk);
  const at = parts[index]?.startSeconds ?? 0;
  return (
    <Handle
      role="slider"
      tabIndex={0}
      aria-label={`${name} begins at`}
      aria-valuenow={at}
      aria-valuetext={grid ? `bar ${writePlace(grid, at)}` : writeTime(at)}
      data-hint="Drag the beginning of this part · ← → on the keyboard · Delete takes it away"
      onPointerDown={(event) =>
        dragEdit(desk, event, 'Move a part', ({ dx, isFine }) =>
          movePart({ ...documentOf(desk), parts }, index, snappedTime(desk, at + dx / perSecond, isFine)),
        )
      }
      onKeyDown={(event) => {
        const arrow = arrowDirection(event);
        const song = documentOf(desk);
        if (event.key === 'Delete') useSongStore.of(desk).edit(removePart(song, index), 'Remove a part');
        else if (arrow?.axis === 'x')
          useSongStore
            .of(desk)
            .editByKey(
              movePart(song, index, steppedTime(desk, at, arrow.direction, event.shiftKey)),
              'Move a part',
              `part/${name}`,
            );
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    />
  );
}

const Handle = styled.div`
  position: absolute;
  top: 0;
  left: -5px;
  width: 9px;
  height: 24px;
  pointer-events: auto;
  cursor: ew-resize;
  touch-action: none;
`;
