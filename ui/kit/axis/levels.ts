import { area, curveMonotoneX, line } from 'd3-shape';
import { SPECTRUM_CENTERS_HZ } from '@/core/measure';
import type { FrequencyScale } from './scale';

/** What a shape is drawn into: a canvas context, or anything with the same methods. */
export type PathSink = Pick<CanvasRenderingContext2D, 'moveTo' | 'lineTo' | 'bezierCurveTo' | 'closePath'>;

/** How many decibels a ridge spans from its foot to the top of its lane. */
export const RIDGE_RANGE_DB = 54;

/** The level at the top of all lanes, dB: the highest band of any track, rounded up to a multiple of 3. */
export function ridgeTopDb(spectra: Iterable<ArrayLike<number>>): number {
  let top = -Infinity;
  for (const levelsDb of spectra) for (let i = 0; i < levelsDb.length; i++) top = Math.max(top, levelsDb[i]);
  return Number.isFinite(top) && top > -120 ? Math.ceil(top / 3) * 3 : -18;
}

/** Height of a level in a field: 0 at its foot, 1 at its top. */
export function ridgeHeight(levelDb: number, topDb: number, rangeDb = RIDGE_RANGE_DB): number {
  return Math.min(1, Math.max(0, 1 + (levelDb - topDb) / rangeDb));
}

const OCTAVES_ABOVE_1K = SPECTRUM_CENTERS_HZ.map((hz) => Math.log2(hz / 1000));

/** A spectrum tilted about 1 kHz, dB per octave. */
export function tiltedBy(tiltDb: number, levelsDb: ArrayLike<number>): ArrayLike<number> {
  if (tiltDb === 0) return levelsDb;
  const tilted = new Float64Array(levelsDb.length);
  for (let i = 0; i < tilted.length; i++) tilted[i] = levelsDb[i] + tiltDb * OCTAVES_ABOVE_1K[i];
  return tilted;
}

export interface RidgeShape {
  scale: FrequencyScale;
  topDb: number;
  /** How many decibels lie between foot and top; {@link RIDGE_RANGE_DB} where nothing is said. */
  rangeDb?: number;
  /** Pixels of the foot and of the top. */
  footY: number;
  topY: number;
}

/** The line of a spectrum of 120 bands. @param levelsDb one value per 1/12-octave band */
export function ridgeLine(
  sink: PathSink,
  levelsDb: ArrayLike<number>,
  { scale, topDb, rangeDb, footY, topY }: RidgeShape,
): void {
  line<number>()
    .x((x) => x)
    .y((_, i) => footY + (topY - footY) * ridgeHeight(levelsDb[i], topDb, rangeDb))
    .curve(curveMonotoneX)
    .context(sink as CanvasRenderingContext2D)(scale.bandX as number[]);
}

/** The same in straight lines: for what changes all the time. */
export function liveLine(
  sink: Pick<PathSink, 'moveTo' | 'lineTo'>,
  levelsDb: ArrayLike<number>,
  { scale, topDb, rangeDb, footY, topY }: RidgeShape,
): void {
  const { bandX } = scale;
  sink.moveTo(bandX[0], footY + (topY - footY) * ridgeHeight(levelsDb[0], topDb, rangeDb));
  for (let i = 1; i < bandX.length; i++)
    sink.lineTo(bandX[i], footY + (topY - footY) * ridgeHeight(levelsDb[i], topDb, rangeDb));
}

interface KnownRidge {
  shape: RidgeShape;
  line: Path2D;
  area: Path2D;
}
const ridges = new WeakMap<object, KnownRidge>();
const isSameShape = (first: RidgeShape, second: RidgeShape) =>
  (['scale', 'topDb', 'rangeDb', 'footY', 'topY'] as const).every((part) => first[part] === second[part]);

/** The line and the filled shape of a spectrum that rests: made once, and kept with it. @param levelsDb never changed in place */
export function ridgePaths(levelsDb: ArrayLike<number> & object, shape: RidgeShape): Pick<KnownRidge, 'line' | 'area'> {
  const kept = ridges.get(levelsDb);
  if (kept && isSameShape(kept.shape, shape)) return kept;
  const made = { shape, line: new Path2D(), area: new Path2D() };
  ridgeLine(made.line, levelsDb, shape);
  ridgeArea(made.area, levelsDb, shape);
  ridges.set(levelsDb, made);
  return made;
}

/** The same, filled down to its foot. */
export function ridgeArea(
  sink: PathSink,
  levelsDb: ArrayLike<number>,
  { scale, topDb, rangeDb, footY, topY }: RidgeShape,
): void {
  area<number>()
    .x((x) => x)
    .y0(footY)
    .y1((_, i) => footY + (topY - footY) * ridgeHeight(levelsDb[i], topDb, rangeDb))
    .curve(curveMonotoneX)
    .context(sink as CanvasRenderingContext2D)(scale.bandX as number[]);
}
