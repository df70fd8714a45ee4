import { fromDb } from './levels';

/** The curve of a clipper: its limits, linear. */
export interface ClipperCurve {
  /** Up to here the sound is left as it is. */
  bendsAt: number;
  ceiling: number;
}

/** @param bend 0 bends at the ceiling, 1 from silence on */
export function clipperCurve(ceilingDb: number, bend: number): ClipperCurve {
  const ceiling = fromDb(ceilingDb);
  return { ceiling, bendsAt: ceiling * (1 - bend) };
}

/**
 * What comes out: the value itself up to the bend; from there a parabola that begins with the slope 1 and ends level at the ceiling, twice
 * as far on as the ceiling lies above the bend; the ceiling from there. Odd; its slope has no step where the bend is more than 0.
 */
export function clipped(value: number, { bendsAt, ceiling }: ClipperCurve): number {
  const size = Math.abs(value);
  if (size <= bendsAt) return value;
  const width = ceiling - bendsAt;
  const over = size - bendsAt;
  const out = over >= 2 * width ? ceiling : bendsAt + over - (over * over) / (4 * width);
  return value < 0 ? -out : out;
}

/** The antiderivative of {@link clipped}, 0 at 0. */
export function clippedArea(value: number, { bendsAt, ceiling }: ClipperCurve): number {
  const size = Math.abs(value);
  if (size <= bendsAt) return (size * size) / 2;
  const width = ceiling - bendsAt;
  const over = size - bendsAt;
  const below = (bendsAt * bendsAt) / 2;
  if (over < 2 * width) return below + bendsAt * over + over * over * (0.5 - over / (12 * width));
  return below + 2 * bendsAt * width + (4 / 3) * width * width + ceiling * (over - 2 * width);
}
