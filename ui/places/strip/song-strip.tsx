'use client';
import { useCallback, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { writeLength, writeTime } from '@/core/formats';
import { songLengthFrames } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { CanvasField } from '../../kit/axis/canvas-field';
import { useCanvas } from '../../kit/axis/canvas';
import { useSize } from '../../kit/axis/use-size';
import { runCommand } from '../../window/commands/command-store';
import { TextButton } from '../../kit/controls/button';
import { isDragging } from '../../kit/gestures/drag';
import { arrowDirection } from '../../kit/gestures/steps';
import { dragEdit } from '../../window/song/edit-drag';
import { useSession } from '../../window/sound/session-store';
import { useFrames } from '../../kit/frames/use-frames';
import { useSong, useSongStore } from '../../window/song/song-store';
import { SERIF, type Tokens } from '../../kit/theme/tokens';
import { drawLoop, moveLoop, type LoopPart } from '../../work/transport/loop-edits';
import { clampedSpan, spanOr, useSongView } from '../../window/view/song-view';
import { positionSeconds } from '../../window/sound/audio-state';
import { songOf } from '../../window/song/live-song';
import { useOpenPassage } from '../../window/song/open-passage';
import { snappedTime } from '../../window/view/snap';
import { drawGrid } from './draw-grid';
import { drawPassages, rowsOf } from './draw-passages';
import { PartName } from './part-name';
import { drawPassage, PassageSpans } from './passage-spans';
import { useOutline } from './use-outline';
import { useStripPinch } from './use-strip-pinch';
import { useStripWheel } from './use-strip-wheel';

const SNAP_PIXELS = 7;
/** Arrow keys move the playhead by a second, and the loop's ends by a tenth. */
const SEEK_STEP = 1;
const LOOP_STEP = 0.1;

/** How high the line is that tells which stretch of the song is shown. */
const WHERE_HEIGHT = 3;

/** Keeps the playhead in sight where it was: it is followed when it leaves what is shown, and left alone where one looks elsewhere. */
function useFollowing(): (seconds: number) => void {
  const desk = useDesk();
  const last = useRef(0);
  return useCallback(
    (seconds) => {
      const { span, reveal } = useSongView.of(desk);
      const wasInSight = span && last.current >= span.from && last.current <= span.to;
      if (wasInSight && seconds !== last.current && !isDragging()) reveal(seconds);
      last.current = seconds;
    },
    [desk],
  );
}

/** The song over time: the outline of the mix, its parts, the loop as a bracket, the playhead. */
export function SongStrip() {
  const desk = useDesk();
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const playhead = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(box);
  const parts = useSong((song) => song.parts);
  const loop = useSong((song) => song.loop);
  const grid = useSong((song) => song.grid);
  const rateHz = useSong((song) => song.rateHz);
  const lengthFrames = useSong(songLengthFrames);
  const seek = useSession((session) => session.seek);
  const lengthSeconds = lengthFrames / rateHz;
  const chosen = useSongView((view) => view.span);
  // The song may have become shorter.
  const span = chosen && clampedSpan(chosen.from, chosen.to - chosen.from, lengthSeconds);
  const shown = spanOr(span, lengthSeconds);
  const perSecond = lengthSeconds > 0 ? width / (shown.to - shown.from) : 0;
  const xOf = (seconds: number) => (seconds - shown.from) * perSecond;

  const outline = useOutline(shown, span !== null, Math.max(1, Math.floor(width / 2)));
  const draw = useCallback(
    (context: CanvasRenderingContext2D, wide: number, high: number, tokens: Tokens) => {
      const top = outline.reduce((most, value) => Math.max(most, value), 1e-6);
      const middle = (high - 4) / 2 + 5;
      context.fillStyle = tokens.soft;
      context.globalAlpha = 0.45;
      context.beginPath();
      outline.forEach((value, i) => {
        const half = Math.max(0.5, (value / top) * (high / 2 - 9));
        context.rect((i * wide) / outline.length, middle - half, wide / outline.length, 2 * half);
      });
      context.fill();
      context.globalAlpha = 1;
      if (grid) drawGrid(context, grid, shown, wide, high, tokens);
      if (!span) return;
      // Where in the song this is.
      context.fillStyle = tokens.grid;
      context.fillRect(0, 0, wide, WHERE_HEIGHT);
      context.fillStyle = tokens.soft;
      const scale = wide / lengthSeconds;
      context.fillRect(span.from * scale, 0, Math.max(WHERE_HEIGHT, (span.to - span.from) * scale), WHERE_HEIGHT);
    },
    // What is shown is a new object at every render: its ends say whether it is another.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [outline, span, lengthSeconds, grid, shown.from, shown.to],
  );
  const passages = useSongStore(({ state }) => state.document.passages);
  const openId = useOpenPassage((open) => open.passageId);
  const rows = useMemo(() => rowsOf(passages), [passages]);
  const drawSpans = useCallback(
    (context: CanvasRenderingContext2D, wide: number, _high: number, tokens: Tokens) =>
      drawPassages(context, { passages, rows, openId }, shown, wide, tokens),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [passages, rows, openId, shown.from, shown.to],
  );
  useCanvas(canvas, width, height, draw, drawSpans);
  const follow = useFollowing();
  useFrames(
    useCallback(() => {
      if (!playhead.current) return;
      const seconds = positionSeconds(desk);
      follow(seconds);
      // By whole pixels, and said by whole seconds: what does not change is not drawn again.
      const place = `translateX(${Math.round((seconds - shown.from) * perSecond)}px)`;
      if (playhead.current.style.transform !== place) playhead.current.style.transform = place;
      const said = writeLength(Math.floor(seconds));
      if (playhead.current.getAttribute('aria-valuetext') === said) return;
      playhead.current.setAttribute('aria-valuenow', String(Math.floor(seconds)));
      playhead.current.setAttribute('aria-valuetext', said);
    }, [desk, perSecond, shown.from, follow]),
  );

  const secondsAt = (clientX: number) =>
    shown.from + (clientX - box.current!.getBoundingClientRect().left) / Math.max(1e-9, perSecond);
  useStripWheel(box, perSecond, secondsAt);
  useStripPinch(box, secondsAt);
  const { reveal } = useSongView.of(desk);
  /** What the keyboard reaches comes into sight; what is pressed is in sight. */
  const revealByKey = (event: React.FocusEvent, seconds: number) => {
    if (event.target.matches(':focus-visible')) reveal(seconds);
  };
  const toGrid = (isFree: boolean) => (seconds: number) => snappedTime(desk, seconds, isFree);
  const grab = (part: LoopPart) => (event: React.PointerEvent) => {
    if (!loop) return;
    if (event.altKey) {
      drawPassage(desk, event, secondsAt(event.clientX), secondsAt);
      return;
    }
    dragEdit(desk, event, 'Move the loop', ({ dx, isFine }) =>
      moveLoop(songOf(desk), loop, part, dx / perSecond, lengthSeconds, SNAP_PIXELS / perSecond, toGrid(isFine)),
    );
  };
  const nudge = (part: LoopPart) => (event: React.KeyboardEvent) => {
    const arrow = arrowDirection(event);
    if (!loop || arrow?.axis !== 'x') return;
    event.preventDefault();
    event.stopPropagation();
    const next = moveLoop(
      songOf(desk),
      loop,
      part,
      arrow.direction * LOOP_STEP * (event.shiftKey ? 0.1 : event.altKey ? 10 : 1),
      lengthSeconds,
      0,
    );
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
      onFocus={(event) => revealByKey(event, seconds)}
    />
  );

  const partsInSight = parts
    .map((part, i) => ({ part, i, end: parts[i + 1]?.startSeconds ?? Infinity }))
    .filter(({ part, end }) => end > shown.from && part.startSeconds < shown.to);

  return (
    <Strip>
      <Label>
        <span>{span ? `${writeTime(span.from)} to ${writeTime(span.to)} shown` : 'Song'}</span>
        <b>
          {loop
            ? `${writeLength(loop.startSeconds)} to ${writeLength(loop.endSeconds)}${loop.enabled ? '' : ', loop off'}`
            : writeLength(lengthSeconds)}
        </b>
        {span && (
          <TextButton data-hint="Shows the whole song again · Z" onPress={() => runCommand(desk, 'whole-song')}>
            Whole song
          </TextButton>
        )}
        {!span && lengthSeconds > 0 && (
          <TextButton
            data-hint="Loops the stretch in which most plays at once: there conflicts show"
            onPress={() => runCommand(desk, 'fullest-stretch')}
          >
            Fullest stretch
          </TextButton>
        )}
      </Label>
      <Field
        ref={box}
        data-testid="song-strip"
        data-hint="Click to go there · drag to draw a loop, with Alt a passage · click a part's name to loop it · wheel or two fingers to see less or more · Shift wheel to go along"
        onPointerDown={(event) => {
          if (event.button !== 0 || perSecond === 0) return;
          const from = secondsAt(event.clientX);
          if (event.altKey) {
            drawPassage(desk, event, from, secondsAt);
            return;
          }
          seek(from);
          dragEdit(desk, event, 'Draw a loop', ({ clientX, isFine }) =>
            drawLoop(songOf(desk), from, secondsAt(clientX), lengthSeconds, SNAP_PIXELS / perSecond, toGrid(isFine)),
          );
        }}
      >
        <canvas ref={canvas} aria-hidden />
        {partsInSight.map(({ part, i, end }) => (
          <Part
            key={i}
            style={{ left: xOf(part.startSeconds), width: (Math.min(end, shown.to) - part.startSeconds) * perSecond }}
          >
            <PartName
              index={i}
              name={part.name}
              lengthSeconds={lengthSeconds}
              perSecond={perSecond}
              offset={Math.max(0, -xOf(part.startSeconds))}
            />
          </Part>
        ))}
        {loop && perSecond > 0 && (
          <Bracket
            $enabled={loop.enabled}
            style={{ left: xOf(loop.startSeconds), width: (loop.endSeconds - loop.startSeconds) * perSecond }}
          >
            {handle('whole', 'Loop', loop.startSeconds)}
            {handle('start', 'Loop start', loop.startSeconds)}
            {handle('end', 'Loop end', loop.endSeconds)}
          </Bracket>
        )}
        {perSecond > 0 && <PassageSpans {...{ passages, rows, shown, perSecond, lengthSeconds }} />}
        {perSecond > 0 && (
          <Playhead
            ref={playhead}
            role="slider"
            tabIndex={0}
            aria-label="Position"
            aria-valuemin={0}
            aria-valuemax={lengthSeconds}
            aria-valuenow={0}
            onKeyDown={(event) => {
              const arrow = arrowDirection(event);
              if (arrow?.axis !== 'x') return;
              event.preventDefault();
              event.stopPropagation();
              const to =
                positionSeconds(desk) + arrow.direction * SEEK_STEP * (event.shiftKey ? 0.1 : event.altKey ? 10 : 1);
              seek(to);
              reveal(Math.min(lengthSeconds, Math.max(0, to)));
            }}
            onFocus={(event) => revealByKey(event, positionSeconds(desk))}
          />
        )}
      </Field>
    </Strip>
  );
}

const Strip = styled.section`
  isolation: isolate;
  display: grid;
  grid-template-columns: 224px minmax(0, 1fr);
  border-bottom: 2px solid var(--rule);
`;
/** A layer of its own: what is zoomed and scrolled is laid out and painted without the rest of the page. */
const Field = styled(CanvasField)`
  contain: layout size;
  will-change: transform;
`;
const Label = styled.div`
  contain: layout size;
  position: relative;
  padding: 7px 18px;
  line-height: 1.25;
  > button {
    position: absolute;
    top: 2px;
    /* The playhead at the beginning is as wide as a target must be. */
    right: 18px;
    min-height: 24px;
    font-size: 12px;
  }
  span {
    display: block;
    color: var(--soft);
  }
  b {
    font-weight: 500;
  }
`;
const Part = styled.div`
  position: absolute;
  top: 0;
  bottom: 5px;
  border-left: 1px solid var(--rule);
  /* Its name ends where the next part begins. */
  overflow: clip;
  overflow-clip-margin: 2px;
  pointer-events: none;
  button {
    white-space: nowrap;
    height: 24px;
    padding: 0 5px 8px;
    border: 0;
    background: none;
    color: var(--soft);
    font: italic 400 12.5px/15px ${SERIF};
    pointer-events: auto;
    cursor: default;
  }
  button:hover {
    color: var(--claim);
  }
`;
const Bracket = styled.div<{ $enabled: boolean }>`
  position: absolute;
  bottom: 1px;
  height: 8px;
  border: solid ${({ $enabled }) => ($enabled ? 'var(--claim)' : 'var(--soft)')};
  border-width: 0 2.5px 3px;
`;
const LoopHandle = styled.div<{ $part: LoopPart }>`
  position: absolute;
  bottom: -4px;
  height: 24px;
  ${({ $part }) =>
    ({
      start: 'left: -12px; width: 24px;',
      end: 'right: -12px; width: 24px;',
      whole: 'left: 12px; right: 12px;',
    })[$part]}
  cursor: ${({ $part }) => ($part === 'whole' ? 'grab' : 'ew-resize')};
  touch-action: none;
`;
/** As wide as a target must be, so that its ring can be seen; the line is in its middle. */
const Playhead = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  left: -12px;
  width: 24px;
  pointer-events: none;
  &::before {
    content: '';
    position: absolute;
    inset: 0 11px;
    background: var(--accent);
  }
`;
