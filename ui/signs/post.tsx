import type { BandType } from '@/core/song';

/** Which side of a post is shut: a high-pass shuts what lies left of it. */
export const shutSide = (type: BandType): -1 | 1 => (type === 'high-pass' ? -1 : 1);

/** The barbs of a slope, from the top down: a full barb is 12 dB per octave, a half barb 6. */
export function barbsOf(order: number): ('full' | 'half')[] {
  const full = Array.from({ length: Math.floor(order / 2) }, () => 'full' as const);
  return order % 2 === 1 ? [...full, 'half'] : full;
}

interface PostProps {
  type: 'high-pass' | 'low-pass';
  order: number;
  height: number;
  /** Length of a full barb, pixels. */
  barb: number;
}

/** A pass filter: a post at its corner, its top at the origin, with barbs on its shut side. */
export function Post({ type, order, height, barb }: PostProps) {
  const side = shutSide(type);
  const apart = barb * 0.55;
  return (
    <>
      <line x1={0} x2={0} y1={0} y2={height} />
      {barbsOf(order).map((kind, i) => {
        const length = kind === 'full' ? barb : barb / 2;
        return <line key={i} x1={0} y1={1 + i * apart} x2={side * length} y2={1 + i * apart - length * 0.45} />;
      })}
    </>
  );
}
