'use client';
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import styled from 'styled-components';
import { writeLength } from '@/core/formats';
import { songLengthFrames } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { CanvasField } from '../../kit/axis/canvas-field';
import { useCanvas } from '../../kit/axis/canvas';
import { useSize } from '../../kit/axis/use-size';
import { HEADS_WIDTH } from '../../kit/axis/heads-width';
import { runCommand } from '../../window/commands/command-store';
import { TextButton } from '../../kit/controls/button';
import { isDragging } from '../../kit/gestures/drag';
import { arrowDirection } from '../../kit/gestures/steps';
import { dragEdit } from '../../window/song/edit-drag';
import { useSession } from '../../window/sound/session-store';
import { useFrames } from '../../kit/frames/use-frames';
import { useSong, useSongStore } from '../../window/song/song-store';
import type { Tokens } from '../../kit/theme/tokens';
import { drawLoop } from '../../work/transport/loop-edits';
import { useSongView } from '../../window/view/song-view';
import { positionSeconds } from '../../window/sound/audio-state';
import { songOf } from '../../window/song/live-song';
import { useOpenPassage } from '../../window/song/open-passage';
import { snappedTime } from '../../window/view/snap';
import { drawGrid } from './draw-grid';
import { drawLoopBracket, drawMark, drawParts, drawPlayhead } from './draw-parts';
import { drawPassages, rowsOf } from './draw-passages';
import { usePassageWork } from '../../work/passages/passage-edits';
import { SNAP_PIXELS } from './loop-bracket';
import { drawPassage } from './passage-spans';
import { ShownStretch } from './shown-stretch';
import { StripHolds } from './strip-holds';
import { stripPaper } from './strip-paper';
import { useStripView } from './strip-view';
import { useRested } from './use-rested';
import { useOutline } from './use-outline';
import { atPress, useStripPinch } from './use-strip-pinch';
import { useStripWheel } from './use-strip-wheel';

/** Arrow keys move the playhead by a second. */
const SEEK_STEP = 1;

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
  const isStretch = useSongView((view) => view.span !== null);
  const marked = usePassageWork((work) => work.markedSeconds);
  const view = useStripView(box, width, lengthSeconds);
  const { shown: restedShown, isMoving } = useRested(box, view);
  const isLaidOut = width > 0 && lengthSeconds > 0;

  const outlineOf = useOutline(view, Math.max(1, Math.floor(width / 2)));
  const draw = useCallback(
    (context: CanvasRenderingContext2D, wide: number, high: number, tokens: Tokens) => {
      const shown = view.shown();
      const outline = outlineOf(shown);
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
      if (grid) drawGrid(stripPaper(context, shown, wide, high, tokens), grid);
      const span = view.span();
      if (!span) return;
      // Where in the song this is.
      context.fillStyle = tokens.grid;
      context.fillRect(0, 0, wide, WHERE_HEIGHT);
      context.fillStyle = tokens.soft;
      const scale = wide / lengthSeconds;
      context.fillRect(span.from * scale, 0, Math.max(WHERE_HEIGHT, (span.to - span.from) * scale), WHERE_HEIGHT);
    },
    [outlineOf, view, lengthSeconds, grid],
  );
  const passages = useSongStore(({ state }) => state.document.passages);
  const openId = useOpenPassage((open) => open.passageId);
  const rows = useMemo(() => rowsOf(passages), [passages]);
  const drawAlways = useCallback(
    (context: CanvasRenderingContext2D, wide: number, high: number, tokens: Tokens) => {
      const paper = stripPaper(context, view.shown(), wide, high, tokens);
      drawParts(paper, parts);
      if (loop) drawLoopBracket(paper, loop);
      if (marked !== null) drawMark(paper, marked);
      drawPassages(paper, { passages, rows, openId });
      if (isMoving) drawPlayhead(paper, positionSeconds(desk));
    },
    [desk, parts, loop, marked, passages, rows, openId, view, isMoving],
  );
  const redraw = useCanvas(canvas, width, height, draw, drawAlways);
  const follow = useFollowing();
  const placePlayhead = useCallback(() => {
    const seconds = positionSeconds(desk);
    follow(seconds);
    if (!playhead.current || isMoving) return;
    // By whole pixels, and said by whole seconds: what does not change is not drawn again.
    const place = `translateX(${Math.round((seconds - view.shown().from) * view.perSecond())}px)`;
    if (playhead.current.style.transform !== place) playhead.current.style.transform = place;
    const said = writeLength(Math.floor(seconds));
    if (playhead.current.getAttribute('aria-valuetext') === said) return;
    playhead.current.setAttribute('aria-valuenow', String(Math.floor(seconds)));
    playhead.current.setAttribute('aria-valuetext', said);
  }, [desk, view, follow, isMoving]);
  useFrames(placePlayhead);
  // It stands where it belongs as soon as it is seen again.
  useLayoutEffect(placePlayhead, [placePlayhead]);
  useEffect(() => view.onChange(redraw), [view, redraw]);

  useStripWheel(box, view);
  useStripPinch(box, view);
  const reveal = useSongView((shown) => shown.reveal);
  /** What the keyboard reaches comes into sight; what is pressed is in sight. */
  const revealByKey = (event: React.FocusEvent, seconds: number) => {
    if (event.target.matches(':focus-visible')) reveal(seconds);
  };
  return (
    <Strip>
      <Label>
        <ShownStretch view={view} span={isStretch ? restedShown : null} isMoving={isMoving} />
        <b>
          {loop
            ? `${writeLength(loop.startSeconds)} to ${writeLength(loop.endSeconds)}${loop.enabled ? '' : ', loop off'}`
            : writeLength(lengthSeconds)}
        </b>
        {isStretch && (
          <TextButton data-hint="Shows the whole song again · Z" onPress={() => runCommand(desk, 'whole-song')}>
            Whole song
          </TextButton>
        )}
        {!isStretch && lengthSeconds > 0 && (
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
          const perSecond = view.perSecond();
          if (event.button !== 0 || perSecond === 0) return;
          if (event.altKey) {
            drawPassage(desk, event, view);
            return;
          }
          const from = view.secondsAt(event.clientX);
          atPress(event.nativeEvent, () => seek(from));
          dragEdit(desk, event, 'Draw a loop', ({ clientX, isFine }) =>
            drawLoop(songOf(desk), from, view.secondsAt(clientX), lengthSeconds, SNAP_PIXELS / perSecond, (seconds) =>
              snappedTime(desk, seconds, isFine),
            ),
          );
        }}
      >
        <canvas ref={canvas} aria-hidden />
        {isLaidOut && (
          <StripHolds {...{ view, width, shown: restedShown, isMoving, parts, loop, passages, rows, lengthSeconds }} />
        )}
        {isLaidOut && (
          <Playhead
            ref={playhead}
            data-moving={isMoving || undefined}
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
  grid-template-columns: ${HEADS_WIDTH}px minmax(0, 1fr);
  border-bottom: 2px solid var(--rule);
`;
/** A layer of its own: what is zoomed and scrolled is laid out and painted without the rest of the page. */
const Field = styled(CanvasField)`
  contain: strict;
  will-change: transform;
`;
const Label = styled.div`
  contain: strict;
  position: relative;
  padding: 7px 18px;
  line-height: 1.25;
  > button {
    position: absolute;
    z-index: 1;
    top: 2px;
    /* The playhead at the beginning is as wide as a target must be. */
    right: 18px;
    min-height: 24px;
    font-size: 12px;
  }
  b {
    display: block;
    margin-top: 1.25em;
    font-weight: 500;
  }
`;
/** As wide as a target must be, so that its ring can be seen; the line is in its middle. */
const Playhead = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  left: -12px;
  width: 24px;
  pointer-events: none;
  /* It is drawn then. */
  &[data-moving]::before {
    opacity: 0;
  }
  &::before {
    content: '';
    position: absolute;
    inset: 0 11px;
    background: var(--accent);
  }
`;
