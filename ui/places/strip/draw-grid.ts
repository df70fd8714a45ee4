import { gridLines } from '@/core/grid';
import type { Grid } from '@/core/song';
import { SANS } from '../../kit/theme/tokens';
import type { StripPaper } from './strip-paper';

/** Lines are never nearer to each other than this, pixels; numbered ones have room for their number. */
const CLOSEST = 9;
const NUMBERED = 26;

/** Bars and beats as thin lines from below, bars with their numbers where there is room. */
export function drawGrid({ context, shown, xOf, perSecond, high, tokens }: StripPaper, grid: Grid): void {
  context.fillStyle = tokens.soft;
  context.font = `500 10.5px ${SANS}`;
  let written = -Infinity;
  for (const { seconds, bar, beat } of gridLines(grid, shown.from, shown.to, CLOSEST / perSecond)) {
    const x = Math.round(xOf(seconds));
    context.globalAlpha = beat === 1 ? 0.55 : 0.3;
    context.fillRect(x, beat === 1 ? high - 19 : high - 13, 1, beat === 1 ? 11 : 5);
    if (beat !== 1 || x - written < NUMBERED) continue;
    written = x;
    context.globalAlpha = 0.9;
    context.fillText(String(bar), x + 3, high - 11);
  }
  context.globalAlpha = 1;
}
