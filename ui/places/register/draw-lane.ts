import type { FrequencyBand, MixedSpectrum } from '@/core/measure';
import { isEnd, type Band } from '@/core/song';
import { drawFrequencyGrid } from '../../kit/axis/grid';
import { hatch } from '../../kit/axis/canvas';
import { ridgePaths, type RidgeShape } from '../../kit/axis/levels';
import type { FrequencyScale } from '../../kit/axis/scale';
import type { Tokens } from '../../kit/theme/tokens';

export interface LanePicture {
  axis: FrequencyScale;
  height: number;
  bands: readonly Band[];
  spectrum: MixedSpectrum;
  topDb: number;
  /** Colour of the ridge. */
  ink: string;
  /** True when the track is not heard. */
  isSilent: boolean;
  /** Where it is in another's way, or another in its. */
  overlaps: readonly FrequencyBand[];
  /** Where the rest is thin while it plays. */
  space: readonly FrequencyBand[];
  /** What an end could take unmissed. */
  shade: FrequencyBand | null;
}

/** Where the ridge of a lane stands. */
export const laneShape = ({ axis, topDb, height }: Pick<LanePicture, 'axis' | 'topDb' | 'height'>): RidgeShape => ({
  scale: axis,
  topDb,
  footY: height - 3.5,
  topY: 3,
});

/** The field of a lane at rest: shut sides, the ridge after the chain, dotted the spectrum before it. */
export function drawLane(
  context: CanvasRenderingContext2D,
  { axis, height, bands, spectrum, topDb, ink, isSilent, overlaps, space, shade }: LanePicture,
  tokens: Tokens,
): void {
  if (axis.width === 0) return;
  for (const band of bands) {
    if (!isEnd(band)) continue;
    const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
    if (band.type === 'high-pass') hatch(context, 0, 0, x, height, tokens.grid, 6);
    else hatch(context, x, 0, axis.width - x, height, tokens.grid, 6);
  }
  if (shade) {
    const [from, to] = [Math.max(0, axis.x(shade.lowHz)), Math.min(axis.width, axis.x(shade.highHz))];
    context.globalAlpha = 0.14;
    context.fillStyle = tokens.claim;
    context.fillRect(from, 0, to - from, height);
    context.globalAlpha = 1;
  }
  drawFrequencyGrid(context, axis, height, tokens.grid);
  const shape = laneShape({ axis, topDb, height });
  const before = ridgePaths(spectrum.beforeDb, shape);
  const after = ridgePaths(spectrum.afterDb, shape);
  const strength = isSilent ? 0.35 : 1;
  context.setLineDash([1.5, 2.5]);
  context.strokeStyle = tokens.soft;
  context.lineWidth = 1;
  context.stroke(before.line);
  context.setLineDash([]);
  context.globalAlpha = 0.26 * strength;
  context.fillStyle = ink;
  context.fill(after.area);
  context.globalAlpha = strength;
  context.strokeStyle = ink;
  context.lineWidth = 1.5;
  context.stroke(after.line);
  for (const { lowHz, highHz } of overlaps) {
    context.save();
    context.clip(after.area);
    hatch(context, axis.x(lowHz), 0, axis.x(highHz) - axis.x(lowHz), height, tokens.accent, 5);
    context.restore();
  }
  context.strokeStyle = tokens.claim;
  context.setLineDash([1, 3]);
  context.lineWidth = 2;
  for (const { lowHz, highHz } of space) {
    context.beginPath();
    context.moveTo(axis.x(lowHz), 2.5);
    context.lineTo(axis.x(highHz), 2.5);
    context.stroke();
  }
  context.setLineDash([]);
  context.globalAlpha = 1;
}
