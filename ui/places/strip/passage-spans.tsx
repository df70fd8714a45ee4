'use client';
import { memo, useEffect, useRef, useState } from 'react';
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
import {
  movedPassage,
  nudgePassage,
  openPassage,
  removePassage,
  usePassageWork,
  type SpanPart,
} from '../../work/passages/passage-edits';

/** With more in sight, those in sight can be taken hold of when one looks closer. */
const MOST_HELD = 150;

/** Marks a new passage by a drag; a press that stays where it is marks none. */
export function drawPassage(
  desk: Desk,
  event: React.PointerEvent,
  from: number,
  secondsAt: (clientX: number) => number,
): void {
  event.stopPropagation();
  const { preview, keepPreview } = useSongStore.of(desk);
  const owner: PreviewOwner = {};
  const id = newId(10);
  const first = snappedTime(desk, from, event.shiftKey);
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

/** The strip is at rest when it was not zoomed or scrolled for so long. */
const REST_MS = 120;

/** What the strip shows, as it was when it was last at rest. */
function useRested(shown: Span, perSecond: number): Span & { perSecond: number } {
  const { from, to } = shown;
  const [rested, setRested] = useState({ from, to, perSecond });
  useEffect(() => {
    const timer = setTimeout(() => setRested({ from, to, perSecond }), REST_MS);
    return () => clearTimeout(timer);
  }, [from, to, perSecond]);
  return rested;
}

interface PassageSpansProps {
  passages: readonly Passage[];
  /** See `rowsOf`. */
  rows: ReadonlyMap<string, number>;
  shown: Span;
  perSecond: number;
  lengthSeconds: number;
}

/**
 * What the passages in the song strip are taken hold of by, in the middle and at both ends; a click or Enter opens them. They are drawn with the rest
 * of the strip (`draw-passages.ts`); what one takes hold of follows when it rests.
 */
export function PassageSpans({ passages, rows, shown, perSecond, lengthSeconds }: PassageSpansProps) {
  const marked = usePassageWork((work) => work.markedSeconds);
  const rested = useRested(shown, perSecond);
  const isMoving = rested.from !== shown.from || rested.perSecond !== perSecond;
  const inSight = passagesWithin(passages, rested);
  return (
    <>
      {marked !== null && <Mark style={{ left: (marked - shown.from) * perSecond }} />}
      <Layer
        data-moving={isMoving || undefined}
        style={{ left: -rested.from * rested.perSecond, width: lengthSeconds * rested.perSecond }}
      >
        {inSight.length <= MOST_HELD &&
          inSight.map((passage) => (
            <HeldSpan key={passage.id} passage={passage} lengthSeconds={lengthSeconds} row={rows.get(passage.id)!} />
          ))}
      </Layer>
    </>
  );
}

interface SpanProps {
  passage: Passage;
  lengthSeconds: number;
  row: number;
}

const placeOf = ({ passage: { startSeconds, endSeconds }, lengthSeconds, row }: SpanProps) => ({
  left: `${(100 * startSeconds) / lengthSeconds}%`,
  width: `${(100 * (endSeconds - startSeconds)) / lengthSeconds}%`,
  top: rowTop(row),
});

const HeldSpan = memo(function HeldSpan(span: SpanProps) {
  const desk = useDesk();
  const { passage, lengthSeconds } = span;
  const isOpen = useOpenPassage((open) => open.passageId === passage.id);
  const grid = useSongStore(({ state }) => state.document.grid);
  const { id, name, startSeconds, endSeconds } = passage;
  const write = (seconds: number) => (grid ? `bar ${writePlace(grid, seconds)}` : writeTime(seconds));
  const isMoved = useRef(false);
  const grab = (part: SpanPart) => (event: React.PointerEvent<HTMLElement>) => {
    isMoved.current = false;
    const edge = part === 'end' ? endSeconds : startSeconds;
    const perSecond = event.currentTarget.closest(`${Layer}`)!.clientWidth / lengthSeconds;
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
    else if (event.key === 'Delete') removePassage(desk, id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
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
            [part === 'start' ? 'left' : 'right']: isOpen ? -6 : -1,
            cursor: 'ew-resize',
          }}
          onPointerDown={grab(part)}
          onKeyDown={keys(part)}
        />
      ))}
    </Held>
  );
});

/** As long as the song: each span has its share of it. */
const Layer = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
  /* What moves away from under the pointer is not taken hold of. */
  &[data-moving] [role='slider'] {
    pointer-events: none;
  }
`;
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
const Mark = styled.div`
  position: absolute;
  top: 20px;
  bottom: 8px;
  border-left: 2px dashed var(--accent);
  pointer-events: none;
`;
