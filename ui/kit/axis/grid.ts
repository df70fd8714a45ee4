import { AXIS_TICKS, type FrequencyScale } from './scale';

/** The vertical lines of the chart. */
export function drawFrequencyGrid(
  context: CanvasRenderingContext2D,
  scale: FrequencyScale,
  height: number,
  colour: string,
): void {
  context.beginPath();
  for (const { hz } of AXIS_TICKS) {
    const x = Math.round(scale.x(hz)) + 0.5;
    context.moveTo(x, 0);
    context.lineTo(x, height);
  }
  context.strokeStyle = colour;
  context.lineWidth = 1;
  context.stroke();
}

/** A horizontal line across a chart, on whole pixels. */
export function drawLevelLine(
  context: CanvasRenderingContext2D,
  width: number,
  y: number,
  colour: string,
  lineWidth = 1,
): void {
  const at = Math.round(y) + 0.5;
  context.beginPath();
  context.moveTo(0, at);
  context.lineTo(width, at);
  context.strokeStyle = colour;
  context.lineWidth = lineWidth;
  context.stroke();
}
