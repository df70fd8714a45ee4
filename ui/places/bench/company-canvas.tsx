'use client';
import { useCallback, useRef, useState } from 'react';
import { useDesk } from '../../window/desk/desk';
import { liveLine, ridgePaths, tiltedBy, type RidgeShape } from '../../kit/axis/levels';
import { useAxis } from '../../kit/axis/axis-context';
import { useCanvas } from '../../kit/axis/canvas';
import { Still } from '../../kit/axis/still';
import { heldAtFader, liveAtFader } from '../../window/sound/live';
import { useCompany } from '../../work/company/company-store';
import { useLiveRedraw } from '../../window/sound/use-live-redraw';
import { INK_DASHES } from '../../kit/signs/inks';
import { SANS, type Tokens } from '../../kit/theme/tokens';
import { spectraShape } from './spectra-shape';
import { useCompanySpectra } from '../../work/company/company-spectra';
import { useRidgeTop } from '../../window/sound/use-ridge-top';

/** Live lines that are drawn in one turn of the frames; more of them are drawn less often. */
const LINES_PER_TURN = 6;

interface CompanySpectrum {
  name: string;
  /** Number of its ink. */
  ink: number;
  longTermDb: ArrayLike<number>;
  live: ArrayLike<number> | undefined;
  held: ArrayLike<number> | undefined;
}

/** The spectra of the company behind the curve, each in its ink and pattern: a picture of its own, which a drag leaves alone. */
export function CompanyCanvas({ height }: { height: number }) {
  const desk = useDesk();
  const axis = useAxis();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [still] = useState(() => new Still());
  const company = useCompanySpectra();
  const { stage, isHolding, tiltDb } = useCompany();
  const topDb = useRidgeTop();
  const draw = useCallback(
    (context: CanvasRenderingContext2D, width: number, _: number, tokens: Tokens) => {
      const shape = spectraShape(axis, topDb, height);
      const spectra = company.map(({ track, longTermDb }) => ({
        name: track.name,
        ink: track.ink,
        longTermDb,
        live: liveAtFader(desk, track, stage),
        held: isHolding ? heldAtFader(desk, track, stage) : undefined,
      }));
      const from = [axis, topDb, company, tiltDb, tokens, ...spectra.map(({ live }) => live !== undefined)];
      still.draw(context, { y: 0, width, height }, from, (resting) => {
        for (const spectrum of spectra) drawLongTerm(resting, spectrum, shape, tiltDb, tokens);
        drawLegend(resting, spectra, width, tokens);
      });
      for (const spectrum of spectra) drawLive(context, spectrum, shape, tiltDb, tokens);
    },
    [axis, topDb, height, company, desk, stage, isHolding, tiltDb, still],
  );
  const redraw = useCanvas(canvas, axis.width, height, draw);
  useLiveRedraw(company.length > 0, redraw, Math.ceil(company.length / LINES_PER_TURN));
  return <canvas ref={canvas} aria-hidden />;
}

function setPen(context: CanvasRenderingContext2D, colour: string, width: number, dash: readonly number[]): void {
  context.setLineDash([...dash]);
  context.strokeStyle = colour;
  context.lineWidth = width;
}

/** What a track is over its whole length. While it plays that steps back behind the live line. */
function drawLongTerm(
  context: CanvasRenderingContext2D,
  { ink, longTermDb, live }: CompanySpectrum,
  shape: RidgeShape,
  tiltDb: number,
  tokens: Tokens,
): void {
  context.globalAlpha = live ? 0.4 : 1;
  setPen(context, tokens.inks[ink], live ? 0.8 : 1.4, live ? [] : INK_DASHES[ink]);
  context.stroke(ridgePaths(tiltedBy(tiltDb, longTermDb), shape).line);
  context.globalAlpha = 1;
  context.setLineDash([]);
}

function drawLive(
  context: CanvasRenderingContext2D,
  { ink, live, held }: CompanySpectrum,
  shape: RidgeShape,
  tiltDb: number,
  tokens: Tokens,
): void {
  const stroke = (levelsDb: ArrayLike<number>, width: number, dash: readonly number[]) => {
    setPen(context, tokens.inks[ink], width, dash);
    context.beginPath();
    liveLine(context, tiltedBy(tiltDb, levelsDb), shape);
    context.stroke();
  };
  if (live) stroke(live, 1.4, INK_DASHES[ink]);
  if (held) stroke(held, 0.8, []);
  context.setLineDash([]);
}

/** Who is in company, with the line of each, at the top of the field. */
function drawLegend(
  context: CanvasRenderingContext2D,
  spectra: readonly CompanySpectrum[],
  fieldWidth: number,
  tokens: Tokens,
): void {
  context.font = `500 12px ${SANS}`;
  context.textRendering = 'geometricPrecision';
  context.textAlign = 'left';
  let x = 12;
  for (const { name, ink } of spectra) {
    const width = 34 + context.measureText(name).width + 14;
    if (x + width > fieldWidth - 60) break;
    context.strokeStyle = context.fillStyle = tokens.inks[ink];
    context.lineWidth = 1.6;
    context.setLineDash([...INK_DASHES[ink]]);
    context.beginPath();
    context.moveTo(x, 14.5);
    context.lineTo(x + 28, 14.5);
    context.stroke();
    context.setLineDash([]);
    context.fillText(name, x + 34, 18);
    x += width;
  }
}
