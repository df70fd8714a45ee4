/** How long the one goes out while the other comes in. */
export const FADE_SECONDS = 0.024;

/** From 0 to 1 over a share of the way, with four derivatives that vanish at both ends: what it leaves beside a sine falls away fast. */
const smoothly = (x: number) => x ** 5 * (126 + x * (-420 + x * (540 + x * (-315 + x * 70))));

const curves = new Map<number, Float64Array>();

/** The way from 0 to 1 within so many seconds, frame by frame. */
export function curveOf(seconds: number, rateHz: number): Float64Array {
  const frames = Math.round(seconds * rateHz);
  const known = curves.get(frames);
  if (known) return known;
  const curve = Float64Array.from({ length: frames }, (_, n) => smoothly((n + 0.5) / frames));
  curves.set(frames, curve);
  return curve;
}
