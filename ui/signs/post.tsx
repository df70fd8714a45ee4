import type { Band, BandType } from '@/core/song';

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

interface PostProps {
  type: 'high-pass' | 'low-pass';
  order: number;
  height: number;
  /** Length of a full barb, pixels. */
  barb: number;
  /** See {@link liftOf}. */
  lift?: number;
}

/** A pass filter: a post at its corner, its top at the origin, with barbs on its shut side. */
export function Post({ type, order, height, barb, lift = 0 }: PostProps) {
  const side = shutSide(type);
  const apart = barb * 0.55;
  return (
    <>
      <line x1={0} x2={0} y1={-lift} y2={height} />
      {lift > 0 && <line x1={-4} x2={4} y1={-lift} y2={-lift} />}
      {barbsOf(order).map((kind, i) => {
        const y = 1 + i * apart;
        if (kind === 'flag') {
          return (
            <path
              key={i}
              d={`M0 ${y - apart / 2}L${side * barb} ${y - apart / 2}L0 ${y + apart / 2}Z`}
              fill="currentColor"
              stroke="none"
            />
          );
        }
        const length = kind === 'full' ? barb : barb / 2;
        return <line key={i} x1={0} y1={y} x2={side * length} y2={y - length * 0.45} />;
      })}
    </>
  );
}
