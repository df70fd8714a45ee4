'use client';
import styled from 'styled-components';
import { writeTime } from '@/core/formats';
import type { Loop } from '@/core/song';
import { arrowDirection } from '../../kit/gestures/steps';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { snappedTime } from '../../window/view/snap';
import { useSongView } from '../../window/view/song-view';
import { moveLoop, type LoopPart } from '../../work/transport/loop-edits';
import { drawPassage } from './passage-spans';
import type { StripView } from './strip-view';

/** Ends stick to the parts of the song from so near, px. */
export const SNAP_PIXELS = 7;
/** Arrow keys move the loop's ends by a tenth of a second. */
const LOOP_STEP = 0.1;

interface LoopBracketProps {
  loop: Loop;
  lengthSeconds: number;
  view: StripView;
}

/** What the loop is taken hold of by, as a whole and at both ends; its bracket is drawn (`draw-parts.ts`). */
export function LoopBracket({ loop, lengthSeconds, view }: LoopBracketProps) {
  const desk = useDesk();
  const reveal = useSongView((view) => view.reveal);
  const grab = (part: LoopPart) => (event: React.PointerEvent) => {
    if (event.altKey) {
      drawPassage(desk, event, view);
      return;
    }
    const perSecond = view.perSecond();
    dragEdit(desk, event, 'Move the loop', ({ dx, isFine }) =>
      moveLoop(songOf(desk), loop, part, dx / perSecond, lengthSeconds, SNAP_PIXELS / perSecond, (seconds) =>
        snappedTime(desk, seconds, isFine),
      ),
    );
  };
  const nudge = (part: LoopPart) => (event: React.KeyboardEvent) => {
    const arrow = arrowDirection(event);
    if (arrow?.axis !== 'x') return;
    event.preventDefault();
    event.stopPropagation();
    const step = arrow.direction * LOOP_STEP * (event.shiftKey ? 0.1 : event.altKey ? 10 : 1);
    const next = moveLoop(songOf(desk), loop, part, step, lengthSeconds, 0);
    useSongStore.of(desk).editByKey(next, 'Move the loop', `loop/${part}`);
    const moved = songOf(desk).loop;
    if (moved) reveal(part === 'end' ? moved.endSeconds : moved.startSeconds);
  };
  const handle = (part: LoopPart, label: string, seconds: number) => (
    <LoopHandle
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={lengthSeconds}
      aria-valuenow={seconds}
      aria-valuetext={writeTime(seconds)}
      data-hint="Drag the bracket or its ends · ends stick to the parts of the song · ← → on the keyboard"
      $part={part}
      onPointerDown={grab(part)}
      onKeyDown={nudge(part)}
      // What the keyboard reaches comes into sight; what is pressed is in sight.
      onFocus={(event) => event.target.matches(':focus-visible') && reveal(seconds)}
    />
  );
  return (
    <Bracket
      style={{
        left: `${(100 * loop.startSeconds) / lengthSeconds}%`,
        width: `${(100 * (loop.endSeconds - loop.startSeconds)) / lengthSeconds}%`,
      }}
    >
      {handle('whole', 'Loop', loop.startSeconds)}
      {handle('start', 'Loop start', loop.startSeconds)}
      {handle('end', 'Loop end', loop.endSeconds)}
    </Bracket>
  );
}

const Bracket = styled.div`
  position: absolute;
  bottom: 1px;
  height: 8px;
`;
const LoopHandle = styled.div<{ $part: LoopPart }>`
  position: absolute;
  bottom: -1px;
  height: 24px;
  ${({ $part }) =>
    ({
      start: 'left: -9.5px; width: 24px;',
      end: 'right: -9.5px; width: 24px;',
      whole: 'left: 14.5px; right: 14.5px;',
    })[$part]}
  pointer-events: auto;
  cursor: ${({ $part }) => ($part === 'whole' ? 'grab' : 'ew-resize')};
  touch-action: none;
`;
