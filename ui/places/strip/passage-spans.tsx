'use client';
import { memo, useRef } from 'react';
import styled from 'styled-components';
import { writeTime } from '@/core/formats';
import { writePlace } from '@/core/grid';
import { addPassage, newPassage } from '@/core/passages';
import { newId, type Passage } from '@/core/song';
import { followDrag } from '../../kit/gestures/drag';
import { arrowDirection } from '../../kit/gestures/steps';
import { useDesk, type Desk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { documentOf } from '../../window/song/live-song';
import { useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import type { PreviewOwner } from '../../window/song/song-state';
import { snappedTime } from '../../window/view/snap';
import type { Span } from '../../window/view/song-view';
import { BAR_HEIGHT, LEAST_WIDTH, passagesWithin, rowTop } from './draw-passages';
import type { StripView } from './strip-view';
import {
  movedPassage,
  nudgePassage,
  openPassage,
  removePassage,
  type SpanPart,
} from '../../work/passages/passage-edits';
import { isDeleteKey } from '../../kit/gestures/plain-key';

/** With more in sight, those in sight can be taken hold of when one looks closer. */
const MOST_HELD = 150;

/** Marks a new passage by a drag; a press that stays where it is marks none. */
export function drawPassage(desk: Desk, event: React.PointerEvent, { secondsAt }: StripView): void {
  event.stopPropagation();
  const { preview, keepPreview } = useSongStore.of(desk);
  const owner: PreviewOwner = {};
  const id = newId(10);
  const first = snappedTime(desk, secondsAt(event.clientX), event.shiftKey);
  followDrag(event.nativeEvent, {
    onMove: ({ clientX, isFine }) => {
      const [start, end] = [first, snappedTime(desk, secondsAt(clientX), isFine)].sort((a, b) => a - b);
      preview(owner, end - start < 0.02 ? null : addPassage(documentOf(desk), newPassage(id, 'Passage', start, end)), {
        isDrag: true,
      });
    },
    onEnd: () => {
      keepPreview(owner, 'New passage');
      if (documentOf(desk).passages.some((passage) => passage.id === id)) openPassage(desk, id);
    },
    onCancel: () => preview(owner, null),
  });
}

interface PassageSpansProps {
  passages: readonly Passage[];
  /** See `rowsOf`. */
  rows: ReadonlyMap<string, number>;
  /** What the strip shows. */
  shown: Span;
  lengthSeconds: number;
  view: StripView;
}

/**
 * What the passages in the song strip are taken hold of by, in the middle and at both ends; a click or Enter opens them. They are drawn
 * (`draw-passages.ts`).
 */
export function PassageSpans({ passages, rows, shown, lengthSeconds, view }: PassageSpansProps) {
  const inSight = passagesWithin(passages, shown);
  if (inSight.length > MOST_HELD) return null;
  return inSight.map((passage) => (
    <HeldSpan key={passage.id} {...{ passage, lengthSeconds, view }} row={rows.get(passage.id)!} />
  ));
}

interface SpanProps {
  passage: Passage;
  lengthSeconds: number;
  row: number;
  view: StripView;
}

const placeOf = ({ passage: { startSeconds, endSeconds }, lengthSeconds, row }: SpanProps) => ({
  left: `${(100 * startSeconds) / lengthSeconds}%`,
  width: `${(100 * (endSeconds - startSeconds)) / lengthSeconds}%`,
  top: rowTop(row),
});

const HeldSpan = memo(function HeldSpan(span: SpanProps) {
  const desk = useDesk();
  const { passage, view } = span;
  const isOpen = useOpenPassage((open) => open.passageId === passage.id);
  const grid = useSongStore(({ state }) => state.document.grid);
  const { id, name, startSeconds, endSeconds } = passage;
  const write = (seconds: number) => (grid ? `bar ${writePlace(grid, seconds)}` : writeTime(seconds));
  const isMoved = useRef(false);
  const grab = (part: SpanPart) => (event: React.PointerEvent<HTMLElement>) => {
    isMoved.current = false;
    const edge = part === 'end' ? endSeconds : startSeconds;
    const perSecond = view.perSecond();
    dragEdit(desk, event, 'Move a passage', ({ dx, isFine }) => {
      isMoved.current = true;
      const to = snappedTime(desk, edge + dx / perSecond, isFine);
      return movedPassage(desk, passage, part, to - edge);
    });
  };
  const keys = (part: SpanPart) => (event: React.KeyboardEvent) => {
    const arrow = arrowDirection(event);
    if (arrow?.axis === 'x') nudgePassage(desk, id, part, arrow.direction, event.shiftKey);
    else if (event.key === 'Enter') openPassage(desk, id);
    else if (isDeleteKey(event)) removePassage(desk, id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const beside = isOpen ? -6 : -1;
  return (
    <Held data-open={isOpen || undefined} style={placeOf(span)}>
      <Hold
        role="slider"
        tabIndex={0}
        aria-label={`Passage ${name}`}
        aria-valuenow={startSeconds}
        aria-valuetext={`${write(startSeconds)} to ${write(endSeconds)}`}
        title={name}
        data-hint={`${name} · click to open · drag it or its ends · ← → on the keyboard, Enter opens, Delete removes`}
        // The open one is as high as a target should be; of the others the list in the panel has all that can be done.
        style={{ inset: isOpen ? '-10px 5px -9px' : '-4px 5px -3px' }}
        onPointerDown={grab('whole')}
        onClick={() => !isMoved.current && openPassage(desk, id)}
        onKeyDown={keys('whole')}
      />
      {(['start', 'end'] as const).map((part) => (
        <Hold
          key={part}
          role="slider"
          tabIndex={isOpen ? 0 : -1}
          aria-label={`${part === 'start' ? 'Beginning' : 'End'} of passage ${name}`}
          aria-valuenow={part === 'start' ? startSeconds : endSeconds}
          aria-valuetext={write(part === 'start' ? startSeconds : endSeconds)}
          style={{
            top: isOpen ? -10 : -4,
            bottom: isOpen ? -9 : -3,
            width: isOpen ? 12 : 7,
            ...(part === 'start' ? { left: beside } : { right: beside }),
            cursor: 'ew-resize',
          }}
          onPointerDown={grab(part)}
          onKeyDown={keys(part)}
        />
      ))}
    </Held>
  );
});

const Held = styled.div`
  position: absolute;
  min-width: ${LEAST_WIDTH}px;
  height: ${BAR_HEIGHT}px;
  &[data-open] {
    z-index: 1;
  }
`;
const Hold = styled.div`
  position: absolute;
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
`;
