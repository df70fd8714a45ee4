import type { FrequencyBand, MixedSpectrum } from '@/core/measure';
import { bandsOf, isEnd, type Chain } from '@/core/song';
import { drawFrequencyGrid } from '../../kit/axis/grid';
import { hatch } from '../../kit/axis/canvas';
import { ridgeHeight, ridgePaths, ridgeTopDb, tiltedBy, type RidgeShape } from '../../kit/axis/levels';
import type { FrequencyScale } from '../../kit/axis/scale';
import type { Tokens } from '../../kit/theme/tokens';

export interface LanePicture {
  axis: FrequencyScale;
  height: number;
  chain: Chain;
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

/** Lanes that are lower than this, CSS pixels, have a shorter scale, tilted so that music looks level, with their own top. */
const LOW_LANE = 40;
const LOW_RANGE_DB = 36;
const LOW_TILT_DB = 3;
/** In lanes lower still there is no room for a ridge: the darker, the louder. */
export const STRIP_LANE = 18;

/** How levels are drawn in a lane. */
export interface LaneScale extends RidgeShape {
  /** dB per octave about 1 kHz. */
  tiltDb: number;
}

/**
 * Where the ridge of a lane stands.
 * @param topDb of all lanes
 * @param beforeDb the spectrum of the lane before its chain
 */
export function laneScale(
  scale: FrequencyScale,
  height: number,
  topDb: number,
  beforeDb: ArrayLike<number>,
): LaneScale {
  const place = { scale, footY: height - 3.5, topY: 3 };
  if (height >= LOW_LANE) return { ...place, topDb, tiltDb: 0 };
  const tiltDb = LOW_TILT_DB;
  return { ...place, topDb: ridgeTopDb([tiltedBy(tiltDb, beforeDb)]), rangeDb: LOW_RANGE_DB, tiltDb };
}

const levels = new WeakMap<MixedSpectrum, Float64Array>();

/** The spectrum of a lane that is too low for a ridge: 0 to 1 for each band, tilted, beside its own highest before the chain. */
export function stripLevels(spectrum: MixedSpectrum): Float64Array {
  const kept = levels.get(spectrum);
  if (kept) return kept;
  const topDb = ridgeTopDb([tiltedBy(LOW_TILT_DB, spectrum.beforeDb)]);
  const after = tiltedBy(LOW_TILT_DB, spectrum.afterDb);
  const made = new Float64Array(after.length);
  for (let band = 0; band < made.length; band++) made[band] = ridgeHeight(after[band], topDb, LOW_RANGE_DB);
  levels.set(spectrum, made);
  return made;
}

/** A spectrum as a strip of a colour: the stronger, the louder. @param shares see {@link stripLevels} */
function drawStrip(
  context: CanvasRenderingContext2D,
  shares: Float64Array,
  { bandX }: FrequencyScale,
  height: number,
  strength: number,
): void {
  for (let band = 0; band < bandX.length; band++) {
    const share = shares[band];
    if (share === 0) continue;
    const from = band === 0 ? bandX[0] : (bandX[band - 1] + bandX[band]) / 2;
    const to = band === bandX.length - 1 ? bandX[band] : (bandX[band] + bandX[band + 1]) / 2;
    context.globalAlpha = strength * share ** 2;
    context.fillRect(from, 1, to - from + 0.25, height - 1);
  }
  context.globalAlpha = 1;
}

/** What stays in a lane while its chain is changed: the grid, and dotted the spectrum before the chain. */
export function drawLaneGround(
  context: CanvasRenderingContext2D,
  { axis, height, spectrum, topDb }: LanePicture,
  tokens: Tokens,
): void {
  if (axis.width === 0) return;
  drawFrequencyGrid(context, axis, height, tokens.grid);
  if (height < STRIP_LANE) return;
  const shape = laneScale(axis, height, topDb, spectrum.beforeDb);
  context.setLineDash([1.5, 2.5]);
  context.strokeStyle = tokens.soft;
  context.lineWidth = 1;
  context.stroke(ridgePaths(tiltedBy(shape.tiltDb, spectrum.beforeDb), shape).line);
  context.setLineDash([]);
}

/** The field of a lane at rest, over its ground: shut sides, the ridge after the chain. */
export function drawLane(
  context: CanvasRenderingContext2D,
  { axis, height, chain, spectrum, topDb, ink, isSilent, overlaps, space, shade }: LanePicture,
  tokens: Tokens,
): void {
  if (axis.width === 0) return;
  for (const band of bandsOf({ chain })) {
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
  const strength = isSilent ? 0.35 : 1;
  if (height < STRIP_LANE) {
    context.fillStyle = ink;
    drawStrip(context, stripLevels(spectrum), axis, height, 0.85 * strength);
    return;
  }
  const shape = laneScale(axis, height, topDb, spectrum.beforeDb);
  const after = ridgePaths(tiltedBy(shape.tiltDb, spectrum.afterDb), shape);
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
