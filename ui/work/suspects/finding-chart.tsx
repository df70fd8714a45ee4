'use client';
import { Area, CartesianGrid, ComposedChart, Line, ReferenceArea, ReferenceLine, XAxis, YAxis } from 'recharts';
import type { FrequencyBand } from '@/core/measure';

const WIDTH = 236;
const MARGIN = { top: 6, right: 8, bottom: 0, left: -22 };
/** The library's own width for a scale. */
const SCALE_WIDTH = 60;
/** Where in a chart the levels are drawn. */
export const CHART_PLOT = { left: SCALE_WIDTH + MARGIN.left, width: WIDTH - MARGIN.right - SCALE_WIDTH - MARGIN.left };
const TEXT = { fill: 'var(--soft)', fontSize: 11 };
const short = (hz: number) => (hz >= 1000 ? `${Number((hz / 1000).toPrecision(3))}k` : String(Math.round(hz)));

interface Point {
  hz: number;
  /** What is shaded, dB. */
  shaded: readonly [number, number];
  line: number;
}

/** What a finding was found by: levels over frequency, with a shaded part, and the ranges of the finding. */
export function FindingChart({
  label,
  caption,
  points,
  ranges,
  ticksHz,
  levels,
  hasZero,
}: {
  label: string;
  caption: string;
  points: readonly Point[];
  ranges: readonly FrequencyBand[];
  ticksHz: number[];
  /** The scale of the levels, dB; as the points need it by default. */
  levels?: { domain: [number, number]; ticks: number[] };
  hasZero: boolean;
}) {
  const [fromHz, toHz] = [points[0].hz, points[points.length - 1].hz];
  return (
    <figure role="img" aria-label={label} style={{ gridColumn: '1 / 3', margin: '4px 0' }}>
      <ComposedChart width={WIDTH} height={128} data={[...points]} margin={MARGIN} accessibilityLayer={false}>
        <CartesianGrid stroke="var(--grid)" vertical={false} />
        <XAxis
          dataKey="hz"
          type="number"
          scale="log"
          domain={[fromHz, toHz]}
          ticks={ticksHz}
          tickFormatter={short}
          tick={TEXT}
          stroke="var(--rule)"
        />
        <YAxis
          domain={['auto', 'auto']}
          tickCount={4}
          {...levels}
          tickFormatter={(db: number) => String(Math.round(db))}
          tick={TEXT}
          stroke="var(--rule)"
        />
        {ranges.map(({ lowHz, highHz }) => (
          <ReferenceArea
            key={lowHz}
            x1={Math.max(fromHz, lowHz)}
            x2={Math.min(toHz, highHz)}
            fill="var(--accent)"
            fillOpacity={0.14}
          />
        ))}
        {hasZero && <ReferenceLine y={0} stroke="var(--rule)" />}
        <Area
          dataKey="shaded"
          stroke="none"
          fill="var(--ink)"
          fillOpacity={0.16}
          activeDot={false}
          isAnimationActive={false}
        />
        <Line
          dataKey="line"
          stroke="var(--ink)"
          strokeWidth={1.6}
          dot={false}
          activeDot={false}
          isAnimationActive={false}
        />
      </ComposedChart>
      <figcaption style={{ color: 'var(--soft)', fontSize: 12 }}>{caption}</figcaption>
    </figure>
  );
}
