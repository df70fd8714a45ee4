'use client';
import { useMemo, useRef } from 'react';
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
import {
  movedPassage,
  nudgePassage,
  openPassage,
  removePassage,
  usePassageWork,
  type SpanPart,
} from '../../work/passages/passage-edits';

/** So many rows of passages that overlap stand one below the other; further ones share the last. */
const ROWS = 3;
const ROW_HEIGHT = 7;
const TOP = 23;
/** With more in sight, those in sight can be taken hold of when one looks closer. */
const MOST_HELD = 150;

/** The row of each passage: the first in which nothing stands in its way. */
export function rowsOf(passages: readonly Passage[]): Map<string, number> {
  const ends: number[] = [];
  const rows = new Map<string, number>();
  for (const { id, startSeconds, endSeconds } of [...passages].sort((a, b) => a.startSeconds - b.startSeconds)) {
    const free = ends.findIndex((end) => end <= startSeconds + 1e-6);
    const row = free >= 0 ? free : Math.min(ROWS - 1, ends.length);
    ends[row] = Math.max(ends[row] ?? 0, endSeconds);
    rows.set(id, row);
  }
  return rows;
}

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

interface PassageSpansProps {
  shown: Span;
  perSecond: number;
}

/** The passages as spans in the song strip: taken hold of in the middle and at both ends, opened by a click or Enter. */
export function PassageSpans({ shown, perSecond }: PassageSpansProps) {
  const passages = useSongStore(({ state }) => state.document.passages);
  const marked = usePassageWork((work) => work.markedSeconds);
  const rows = useMemo(() => rowsOf(passages), [passages]);
  const inSight = passages.filter(({ startSeconds, endSeconds }) => endSeconds > shown.from && startSeconds < shown.to);
  const isHeld = inSight.length <= MOST_HELD;
  const xOf = (seconds: number) => (seconds - shown.from) * perSecond;
  return (
    <>
      {marked !== null && <Mark style={{ left: xOf(marked) }} />}
      {inSight.map((passage) => {
        const left = xOf(passage.startSeconds);
        const width = Math.max(3, (passage.endSeconds - passage.startSeconds) * perSecond);
        const top = TOP + ROW_HEIGHT * rows.get(passage.id)!;
        return isHeld ? (
          <HeldSpan key={passage.id} passage={passage} perSecond={perSecond} left={left} width={width} top={top} />
        ) : (
          <Bar key={passage.id} $isOff={!passage.enabled} style={{ left, width, top }} />
        );
      })}
    </>
  );
}

interface HeldSpanProps {
  passage: Passage;
  perSecond: number;
  left: number;
  width: number;
  top: number;
}

function HeldSpan({ passage, perSecond, left, width, top }: HeldSpanProps) {
  const desk = useDesk();
  const isOpen = useOpenPassage((open) => open.passageId === passage.id);
  const grid = useSongStore(({ state }) => state.document.grid);
  const { id, name, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds } = passage;
  const write = (seconds: number) => (grid ? `bar ${writePlace(grid, seconds)}` : writeTime(seconds));
  const isMoved = useRef(false);
  const grab = (part: SpanPart) => (event: React.PointerEvent) => {
    isMoved.current = false;
    const edge = part === 'end' ? endSeconds : startSeconds;
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
  const ramp = (seconds: number) => Math.min(width, seconds * perSecond);
  return (
    <Bar
      $isOff={!passage.enabled}
      data-open={isOpen || undefined}
      style={{
        left,
        width,
        top,
        clipPath: `polygon(0 100%, ${ramp(fadeInSeconds)}px 0, ${width - ramp(fadeOutSeconds)}px 0, ${width}px 100%)`,
      }}
    >
      <Hold
        role="slider"
        tabIndex={0}
        aria-label={`Passage ${name}`}
        aria-valuenow={startSeconds}
        aria-valuetext={`${write(startSeconds)} to ${write(endSeconds)}`}
        title={name}
        data-hint={`${name} · click to open · drag it or its ends · ← → on the keyboard, Enter opens, Delete removes`}
        style={{ inset: '-4px 5px -3px' }}
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
          style={{ top: -4, bottom: -3, width: 7, [part === 'start' ? 'left' : 'right']: -1, cursor: 'ew-resize' }}
          onPointerDown={grab(part)}
          onKeyDown={keys(part)}
        />
      ))}
    </Bar>
  );
}

const Bar = styled.div<{ $isOff: boolean }>`
  position: absolute;
  height: 5px;
  background: var(--${({ $isOff }) => ($isOff ? 'rule' : 'ink')});
  opacity: 0.75;
  &[data-open] {
    background: var(--accent);
    opacity: 1;
  }
`;
const Hold = styled.div`
  position: absolute;
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
