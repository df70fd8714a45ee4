import type { Band, BandType } from '@/core/song';
import { showAttribute } from '../frames/show';

/** Which side of a post is shut: a high-pass shuts what lies left of it. */
const shutSide = (type: BandType): -1 | 1 => (type === 'high-pass' ? -1 : 1);

type Barb = 'flag' | 'full' | 'half';

/** The barbs of a slope, from the top down: a flag is 60 dB per octave, a full barb 12, a half barb 6. */
export function barbsOf(order: number): Barb[] {
  const rest = order % 10;
  return [
    ...Array<Barb>(Math.floor(order / 10)).fill('flag'),
    ...Array<Barb>(Math.floor(rest / 2)).fill('full'),
    ...Array<Barb>(rest % 2).fill('half'),
  ];
}

/** How far the cap of a post rises over it for ripple or resonance, pixels. */
export function liftOf({ family, rippleDb, q }: Pick<Band, 'family' | 'rippleDb' | 'q'>): number {
  if (family === 'chebyshev-1' || family === 'elliptic') return 2 + Math.min(6, rippleDb);
  return family === 'resonant' ? 2 + Math.min(6, Math.max(0, 2 * Math.log2(q / Math.SQRT1_2))) : 0;
}

export interface PostShape {
  type: BandType;
  order: number;
  height: number;
  /** Length of a full barb, pixels. */
  barb: number;
  /** See {@link liftOf}. */
  lift?: number;
}

/** A sign as paths: what is drawn as lines, and what is filled. */
export interface SignPaths {
  lines: string;
  fills: string;
}

/** A pass filter: a post at its corner, its top at the origin, with barbs on its shut side. */
export function postPaths({ type, order, height, barb, lift = 0 }: PostShape): SignPaths {
  const side = shutSide(type);
  const apart = barb * 0.55;
  let lines = `M0 ${-lift}V${height}`;
  let fills = '';
  if (lift > 0) lines += `M-4 ${-lift}H4`;
  barbsOf(order).forEach((kind, i) => {
    const y = 1 + i * apart;
    const length = kind === 'half' ? barb / 2 : barb;
    if (kind === 'flag') fills += `M0 ${y - apart / 2}L${side * barb} ${y - apart / 2}L0 ${y + apart / 2}Z`;
    else lines += `M0 ${y}L${side * length} ${y - length * 0.45}`;
  });
  return { lines, fills };
}

/** A sign, to be filled with paths by {@link placeSign}. */
export function Sign() {
  return (
    <>
      <path data-lines="" fill="none" stroke="currentColor" />
      <path data-fills="" fill="currentColor" stroke="none" />
    </>
  );
}

/** Draws a sign anew, outside React. @param sign an element that holds a {@link Sign} */
export function placeSign(sign: Element, { lines, fills }: SignPaths): void {
  for (const [part, path] of Object.entries({ lines, fills })) {
    const drawn = sign.querySelector(`[data-${part}]`);
    if (drawn) showAttribute(drawn, 'd', path);
  }
}
