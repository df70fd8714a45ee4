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
