'use client';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
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

/** The strip is at rest when it was not zoomed or scrolled for so long. */
const REST_MS = 120;

/** What the spans are laid out for. */
interface Rested {
  perSecond: number;
  /** What is laid out: what was shown, and as much before and after it. */
  about: Span;
}

const restedAt = ({ from, to }: Span, perSecond: number): Rested => ({
  perSecond,
  about: { from: 2 * from - to, to: 2 * to - from },
});

/** How the strip was when it was last at rest; sooner anew where more is shown than is laid out. */
function useRested(shown: Span, perSecond: number, lengthSeconds: number): Rested {
  const [rested, setRested] = useState(() => restedAt(shown, perSecond));
  const { from, to } = shown;
  const isBeyond = Math.max(0, from) < rested.about.from || Math.min(lengthSeconds, to) > rested.about.to;
  if (isBeyond) setRested(restedAt(shown, perSecond));
  useEffect(() => {
    const timer = setTimeout(() => setRested(restedAt({ from, to }, perSecond)), REST_MS);
    return () => clearTimeout(timer);
  }, [from, to, perSecond]);
  return rested;
}

const inSightOf = (passages: readonly Passage[], { from, to }: Span) =>
  passages.filter(({ startSeconds, endSeconds }) => endSeconds > from && startSeconds < to);

interface PassageSpansProps {
  shown: Span;
  perSecond: number;
  lengthSeconds: number;
}

/** The passages as spans in the song strip: taken hold of in the middle and at both ends, opened by a click or Enter. */
export function PassageSpans({ shown, perSecond, lengthSeconds }: PassageSpansProps) {
  const passages = useSongStore(({ state }) => state.document.passages);
  const marked = usePassageWork((work) => work.markedSeconds);
  const rows = useMemo(() => rowsOf(passages), [passages]);
  const rested = useRested(shown, perSecond, lengthSeconds);
  const about = inSightOf(passages, rested.about);
  const isHeld = about.length <= MOST_HELD;
  // A layer as long as the song: while the strip is zoomed and scrolled it alone is moved and stretched, and nothing in it laid out anew.
  const transform = `translateX(${-shown.from * perSecond}px) scaleX(${perSecond / rested.perSecond})`;
  return (
    <Layer style={{ width: lengthSeconds * rested.perSecond, transform }}>
      {marked !== null && <Mark style={{ left: `${(100 * marked) / lengthSeconds}%` }} />}
      {about.map((passage) => {
        const span = { passage, lengthSeconds, row: rows.get(passage.id)! };
        return isHeld ? (
          <HeldSpan key={passage.id} {...span} />
        ) : (
          <Bar key={passage.id} $isOff={!passage.enabled} style={placeOf(span)}>
            <i />
          </Bar>
        );
      })}
    </Layer>
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
  top: TOP + ROW_HEIGHT * row,
});

const HeldSpan = memo(function HeldSpan(span: SpanProps) {
  const desk = useDesk();
  const { passage, lengthSeconds } = span;
  const isOpen = useOpenPassage((open) => open.passageId === passage.id);
  const grid = useSongStore(({ state }) => state.document.grid);
  const { id, name, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds } = passage;
  const write = (seconds: number) => (grid ? `bar ${writePlace(grid, seconds)}` : writeTime(seconds));
  const isMoved = useRef(false);
  const grab = (part: SpanPart) => (event: React.PointerEvent<HTMLElement>) => {
    isMoved.current = false;
    const edge = part === 'end' ? endSeconds : startSeconds;
    const perSecond = event.currentTarget.closest(`${Layer}`)!.getBoundingClientRect().width / lengthSeconds;
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
  const ramp = (seconds: number) => Math.min(100, (100 * seconds) / (endSeconds - startSeconds));
  const [rise, fall] = [ramp(fadeInSeconds), 100 - ramp(fadeOutSeconds)];
  return (
    <Bar $isOff={!passage.enabled} data-open={isOpen || undefined} style={placeOf(span)}>
      <i
        style={
          rise === 0 && fall === 100 ? undefined : { clipPath: `polygon(0 100%, ${rise}% 0, ${fall}% 0, 100% 100%)` }
        }
      />
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
    </Bar>
  );
});

const Layer = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  transform-origin: 0 0;
  will-change: transform;
  pointer-events: none;
`;
const Bar = styled.div<{ $isOff: boolean }>`
  position: absolute;
  min-width: 3px;
  height: 5px;
  > i {
    position: absolute;
    inset: 0;
    background: var(--${({ $isOff }) => ($isOff ? 'rule' : 'ink')});
    opacity: 0.75;
  }
  &[data-open] {
    z-index: 1;
  }
  &[data-open] > i {
    background: var(--accent);
    opacity: 1;
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
