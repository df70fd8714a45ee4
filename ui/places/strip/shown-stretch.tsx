'use client';
import { useCallback, useEffect, useRef } from 'react';
import styled from 'styled-components';
import { writeTime } from '@/core/formats';
import { useCanvas } from '../../kit/axis/canvas';
import { SANS, type Tokens } from '../../kit/theme/tokens';
import type { Span } from '../../window/view/song-view';
import type { StripView } from './strip-view';

/** Size of the words' place, and of their letters, px. */
const WIDTH = 190;
const HEIGHT = 16;
const LETTERS = 13;

const inWords = (span: Span | null) => (span ? `${writeTime(span.from)} to ${writeTime(span.to)} shown` : 'Song');

/**
 * Which stretch of the song is shown, in words. While the strip moves they are drawn: to write them anew would lay out a part of the page.
 * @param span what is shown at rest; null for the whole song
 * @param isMoving whether the strip is zoomed or scrolled just now
 */
export function ShownStretch({ view, span, isMoving }: { view: StripView; span: Span | null; isMoving: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const draw = useCallback(
    (context: CanvasRenderingContext2D, _: number, high: number, tokens: Tokens) => {
      if (!isMoving) return;
      context.font = `400 ${LETTERS}px ${SANS}`;
      context.fillStyle = tokens.soft;
      const words = inWords(view.span());
      const { fontBoundingBoxAscent: ascent, fontBoundingBoxDescent: descent } = context.measureText(words);
      context.fillText(words, 0, (high - ascent - descent) / 2 + ascent);
    },
    [view, isMoving],
  );
  // It is no picture of the sound, and there while the eyes are off.
  const redraw = useCanvas(canvas, WIDTH, HEIGHT, drawNothing, draw);
  useEffect(() => (isMoving ? view.onChange(redraw) : undefined), [view, isMoving, redraw]);
  return (
    <Shown data-moving={isMoving || undefined}>
      {inWords(span)}
      <canvas ref={canvas} aria-hidden />
    </Shown>
  );
}

const drawNothing = () => undefined;

/** Of a size of its own, out of the page's flow: while it changes nothing else is laid out. */
const Shown = styled.span`
  contain: strict;
  will-change: transform;
  position: absolute;
  top: 7px;
  left: 18px;
  width: ${WIDTH}px;
  height: ${HEIGHT}px;
  line-height: ${HEIGHT}px;
  color: var(--soft);
  &[data-moving] {
    color: transparent;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
`;
