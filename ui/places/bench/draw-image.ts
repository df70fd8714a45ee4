import type { StereoBand } from '@/core/measure';
import { drawFrequencyGrid, drawLevelLine } from '../../kit/axis/grid';
import type { FrequencyScale } from '../../kit/axis/scale';
import { SANS, type Tokens } from '../../kit/theme/tokens';

const MARGIN = 10;
const TICKS = [
  { value: 1, text: '+1 the same on both sides' },
  { value: 0.5, text: '' },
  { value: 0, text: '0 unrelated' },
  { value: -0.5, text: '' },
  { value: -1, text: '−1 turned' },
];

export interface ImagePicture {
  axis: FrequencyScale;
  height: number;
  /** By third-octaves; null while it is not measured. */
  bands: readonly StereoBand[] | null;
  /** False where the song has changed since. */
  isCurrent: boolean;
}

/** Places of one figure of the bands, pixels; where there is none the line is broken. */
export function imageLine(
  { axis, height, bands }: Pick<ImagePicture, 'axis' | 'height' | 'bands'>,
  figure: 'correlation' | 'sideShare',
): { x: number; y: number }[][] {
  const lines: { x: number; y: number }[][] = [[]];
  for (const band of bands ?? []) {
    const value = band[figure];
    if (value !== null) lines[lines.length - 1].push({ x: axis.x(band.hz), y: imageY(height, value) });
    else if (lines[lines.length - 1].length > 0) lines.push([]);
  }
  return lines.filter((line) => line.length > 0);
}

/** Height of a correlation, or of a share, in the field. */
export const imageY = (height: number, value: number) => MARGIN + ((1 - value) / 2) * (height - 2 * MARGIN);

/** How left and right of the chosen strip stand to each other, range by range: correlation, and the share of the sides in its power. */
export function drawImage(context: CanvasRenderingContext2D, picture: ImagePicture, tokens: Tokens): void {
  const { axis, height, bands } = picture;
  drawFrequencyGrid(context, axis, height, tokens.grid);
  for (const { value } of TICKS)
    drawLevelLine(context, axis.width, imageY(height, value), value === 0 ? tokens.rule : tokens.grid);
  if (bands) drawLines(context, picture, tokens);
  const write = (text: string, x: number, y: number, align: CanvasTextAlign, colour: string) => {
    context.textAlign = align;
    context.strokeText(text, x, y);
    context.fillStyle = colour;
    context.fillText(text, x, y);
  };
  // Over the lines, which must not hide them.
  context.font = `400 11px ${SANS}`;
  context.lineJoin = 'round';
  context.lineWidth = 4;
  context.strokeStyle = tokens.field;
  for (const { value, text } of TICKS) {
    const y = imageY(height, value);
    write(text, 6, value === 1 ? y + 12 : y - 4, 'left', tokens.soft);
  }
  const [middle, right, foot] = [axis.width / 2, axis.width - 6, height - 10];
  if (!bands)
    write('Being measured, or not yet: the Image panel measures it.', middle, height / 2 - 8, 'center', tokens.soft);
  else if (!picture.isCurrent) write('before the last changes', middle, foot, 'center', tokens.soft);
  write('— correlation', right, foot - 14, 'right', tokens.ink);
  write('- - share of the sides in the power', right, foot, 'right', tokens.claim);
}

function drawLines(context: CanvasRenderingContext2D, picture: ImagePicture, tokens: Tokens): void {
  const stroke = (figure: 'correlation' | 'sideShare', colour: string, dash: number[]) => {
    context.beginPath();
    for (const [first, ...others] of imageLine(picture, figure)) {
      context.moveTo(first.x, first.y);
      for (const { x, y } of others) context.lineTo(x, y);
    }
    context.strokeStyle = colour;
    context.lineWidth = 2;
    context.setLineDash(dash);
    context.stroke();
    context.setLineDash([]);
  };
  stroke('sideShare', tokens.claim, [6, 4]);
  stroke('correlation', tokens.ink, []);
}
