import { writeFigure } from '@/core/formats';
import { decayAt } from '@/core/processors';
import { FIGURES, type Echo, type Reverb } from '@/core/song';
import { hatch } from '../../kit/axis/canvas';
import { drawFrequencyGrid } from '../../kit/axis/grid';
import type { FrequencyScale } from '../../kit/axis/scale';
import { SANS, type Tokens } from '../../kit/theme/tokens';

const { min: SHORTEST, max: LONGEST } = FIGURES.reverb.decaySeconds;
const FOOT = 8;

/** Height of a decay, seconds: by ratios. */
export const decayScale = (height: number) => {
  const [low, high] = [Math.log(SHORTEST / 2), Math.log(LONGEST)];
  return {
    y: (seconds: number) =>
      height - FOOT - ((Math.log(Math.max(SHORTEST / 2, seconds)) - low) / (high - low)) * (height - 20),
    seconds: (y: number) => Math.exp(low + ((height - FOOT - y) / (height - 20)) * (high - low)),
  };
};

/** How long each range of frequency rings, as a line on the shared axis; below it when it has fallen by a quarter, a half, three quarters of the way. */
export function drawReverb(
  context: CanvasRenderingContext2D,
  axis: FrequencyScale,
  height: number,
  { reverb, rateHz, ink }: { reverb: Reverb; rateHz: number; ink: string },
  tokens: Tokens,
): void {
  const { y } = decayScale(height);
  drawFrequencyGrid(context, axis, height, tokens.grid);
  context.font = `400 11px ${SANS}`;
  context.textAlign = 'right';
  for (const seconds of [0.1, 0.2, 0.5, 1, 2, 5, 10, 20]) {
    const place = Math.round(y(seconds)) + 0.5;
    context.strokeStyle = tokens.grid;
    context.beginPath();
    context.moveTo(0, place);
    context.lineTo(axis.width, place);
    context.stroke();
    context.fillStyle = tokens.soft;
    context.fillText(`${seconds} s`, axis.width - 6, place - 3);
  }
  const step = 4;
  const columns = Array.from({ length: Math.ceil(axis.width / step) + 1 }, (_, i) => ({
    x: i * step,
    decay: decayAt(reverb, axis.hz(i * step), rateHz),
  }));
  const line = (share: number) => {
    context.beginPath();
    columns.forEach(({ x, decay }, i) =>
      i === 0 ? context.moveTo(x, y(decay * share)) : context.lineTo(x, y(decay * share)),
    );
  };
  for (const share of [1, 0.75, 0.5, 0.25]) {
    line(share);
    context.lineTo(axis.width, height);
    context.lineTo(0, height);
    context.globalAlpha = 0.09;
    context.fillStyle = ink;
    context.fill();
    context.globalAlpha = 1;
  }
  line(1);
  context.strokeStyle = tokens.ink;
  context.lineWidth = 2;
  context.stroke();
  context.lineWidth = 1;
  const { lowHz, highHz } = reverb.range;
  if (lowHz !== null) hatch(context, 0, 0, axis.x(lowHz), height, tokens.grid, 9);
  if (highHz !== null) hatch(context, axis.x(highHz), 0, axis.width - axis.x(highHz), height, tokens.grid, 9);
}

/** What comes back of a hit: a tap for each time, as high as it is loud, on a line of time. */
export function drawEcho(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  { echo, ink }: { echo: Echo; ink: string },
  tokens: Tokens,
): void {
  const lowestDb = -60;
  const y = (db: number) => 10 + (-Math.max(lowestDb, db) / -lowestDb) * (height - 34);
  const feedbackDb = 20 * Math.log10(Math.max(1e-9, echo.feedbackPercent / 100));
  const taps = Array.from({ length: 60 }, (_, i) => ({
    at: (i + 1) * echo.timeMs,
    db: echo.wetDb + i * feedbackDb,
  })).filter(({ db }) => db > lowestDb);
  const longest = Math.max(1000, Math.min(20000, (taps.at(-1)?.at ?? 0) * 1.1));
  const x = (ms: number) => 44 + (ms / longest) * (width - 70);
  context.font = `400 11px ${SANS}`;
  context.textAlign = 'left';
  for (let db = 0; db >= lowestDb; db -= 12) {
    const place = Math.round(y(db)) + 0.5;
    context.strokeStyle = db === 0 ? tokens.rule : tokens.grid;
    context.beginPath();
    context.moveTo(44, place);
    context.lineTo(width - 10, place);
    context.stroke();
    context.fillStyle = tokens.soft;
    context.fillText(db === 0 ? '0 dB' : `−${-db}`, 8, place + 4);
  }
  const bar = (ms: number, db: number, isSide: boolean, colour: string) => {
    context.fillStyle = colour;
    const wide = 3;
    const foot = height - 24;
    if (!isSide) context.fillRect(x(ms) - wide / 2, y(db), wide, foot - y(db));
    else {
      context.strokeStyle = colour;
      context.strokeRect(x(ms) - wide / 2 + 0.5, y(db) + 0.5, wide - 1, foot - y(db) - 1);
    }
  };
  if (echo.dry) bar(0, 0, false, tokens.soft);
  taps.forEach(({ at, db }, i) => bar(at, db, echo.crossing && i % 2 === 1, ink));
  context.textAlign = 'center';
  context.fillStyle = tokens.soft;
  const seconds = [0.1, 0.25, 0.5, 1, 2, 5].find((every) => (longest / 1000 / every) * 54 < width) ?? 5;
  for (let at = 0; at * 1000 <= longest; at += seconds)
    context.fillText(writeFigure(at, { ...FIGURES.reverb.decaySeconds, min: 0 }), x(at * 1000), height - 8);
}
