'use client';
import { useCallback, useEffect, useRef, type RefObject } from 'react';
import styled from 'styled-components';
import { SPECTRUM_BANDS } from '@/core/measure';
import { findStrip, type RegisterRow } from '@/core/song';
import { useCanvas } from '../../kit/axis/canvas';
import type { Tokens } from '../../kit/theme/tokens';
import { useDesk, type Desk } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';
import { useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { useAnalyses } from '../../window/sound/analyses';
import { stripSpectrum } from '../../window/sound/spectra';
import { useStripMeasures } from '../../window/sound/strip-measures';
import { stripLevels } from './draw-lane';

export const OVERVIEW_WIDTH = 24;
/** How often it follows what is edited, ms: it tells where one is, not what is done. */
const FOLLOW_MS = 500;
const COLUMNS = 12;
const BANDS_A_COLUMN = SPECTRUM_BANDS / COLUMNS;

interface RegisterOverviewProps {
  rows: readonly RegisterRow[];
  laneHeight: number;
  /** Of what is in sight, CSS pixels. */
  height: number;
  /** What the lanes are scrolled by. */
  scroller: RefObject<HTMLElement | null>;
}

/** A line for each lane, the chosen one marked, and a frame about what is in sight. */
function drawOverview(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  tokens: Tokens,
  desk: Desk,
  { rows, laneHeight, scroller }: Omit<RegisterOverviewProps, 'height'>,
): void {
  const song = songOf(desk);
  const { byAudio } = useAnalyses.of(desk);
  const { measures } = useStripMeasures.of(desk);
  const { stripId } = useSelection.of(desk);
  const line = height / rows.length;
  rows.forEach(({ id }, row) => {
    const strip = findStrip(song, id);
    if (!strip) return;
    const shares = stripLevels(stripSpectrum(song, strip, byAudio, measures));
    context.fillStyle = 'ink' in strip ? tokens.inks[strip.ink] : tokens.soft;
    for (let column = 0; column < COLUMNS; column++) {
      let most = 0;
      for (let band = column * BANDS_A_COLUMN; band < (column + 1) * BANDS_A_COLUMN; band++)
        most = Math.max(most, shares[band]);
      context.globalAlpha = 0.8 * most ** 2;
      context.fillRect((column * width) / COLUMNS, row * line, width / COLUMNS, Math.max(1, line - 1));
    }
    context.globalAlpha = 1;
    if (id !== stripId) return;
    context.fillStyle = tokens.ink;
    context.fillRect(0, row * line, 2.5, Math.max(2, line - 1));
  });
  const scrolled = scroller.current;
  if (!scrolled) return;
  const share = height / (rows.length * laneHeight);
  context.strokeStyle = tokens.ink;
  context.lineWidth = 1;
  context.strokeRect(0.5, scrolled.scrollTop * share + 0.5, width - 1, scrolled.clientHeight * share - 1);
}

/** All lanes beside those in sight, where not all of them are: each as a line, and a frame about what is in sight. Pressed or dragged it scrolls. */
export function RegisterOverview({ rows, laneHeight, height, scroller }: RegisterOverviewProps) {
  const desk = useDesk();
  const canvas = useRef<HTMLCanvasElement>(null);
  const draw = useCallback(
    (context: CanvasRenderingContext2D, width: number, high: number, tokens: Tokens) =>
      drawOverview(context, width, high, tokens, desk, { rows, laneHeight, scroller }),
    [desk, rows, laneHeight, scroller],
  );
  const redraw = useCanvas(canvas, OVERVIEW_WIDTH, height, draw);
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const follow = () => {
      waiting = undefined;
      redraw();
    };
    const later = () => {
      if (waiting === undefined) waiting = setTimeout(follow, FOLLOW_MS);
    };
    const scrolled = scroller.current;
    scrolled?.addEventListener('scroll', redraw);
    const endings = [
      useSongStore.api(desk).subscribe(later),
      useAnalyses.api(desk).subscribe(redraw),
      useSelection.api(desk).subscribe(redraw),
    ];
    return () => {
      clearTimeout(waiting);
      scrolled?.removeEventListener('scroll', redraw);
      endings.forEach((end) => end());
    };
  }, [desk, redraw, scroller]);

  const scrollTo = ({ currentTarget, clientY }: React.PointerEvent) => {
    const at = (clientY - currentTarget.getBoundingClientRect().top) / height;
    scroller.current?.scrollTo({ top: at * rows.length * laneHeight - height / 2 });
  };
  return (
    <Field
      ref={canvas}
      aria-hidden
      data-testid="register-overview"
      data-hint="All tracks, low to high from left to right, and what is in sight: press or drag to go there · W shows them all"
      style={{ height }}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        scrollTo(event);
      }}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && scrollTo(event)}
    />
  );
}

const Field = styled.canvas`
  position: absolute;
  z-index: 2;
  top: 0;
  left: 0;
  width: ${OVERVIEW_WIDTH}px;
  border-right: 1px solid var(--rule);
  touch-action: none;
`;
