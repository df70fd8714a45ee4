'use client';
import { CartesianGrid, Line, LineChart, ReferenceLine, XAxis, YAxis } from 'recharts';
import { writeFrequency } from '@/core/formats';
import type { EdgeFigures } from '@/workers/mix';

const WIDTH = 236;
const HEIGHT = 132;
/** More is drawn as much: what matters is where a loss begins. */
const MOST_LU = 3;
const TICKS_HZ = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
const TEXT = { fill: 'var(--soft)', fontSize: 11 };

/** Loss against the corner: alone as a full line, in the mix as a broken one; the threshold; where the filter stands now. */
export function EdgeChart({
  figures,
  thresholdLu,
  nowHz,
}: {
  figures: EdgeFigures;
  thresholdLu: number;
  nowHz: number | null;
}) {
  const points = figures.curve.map(({ frequencyHz, aloneLu, inMixLu }) => ({
    frequencyHz,
    alone: Math.min(MOST_LU, aloneLu),
    inMix: Math.min(MOST_LU, inMixLu),
  }));
  const [fromHz, toHz] = [points[0].frequencyHz, points[points.length - 1].frequencyHz];
  return (
    <figure aria-label="Loss against the corner" style={{ margin: '4px 0' }}>
      <LineChart
        width={WIDTH}
        height={HEIGHT}
        data={points}
        margin={{ top: 6, right: 6, bottom: 0, left: -26 }}
        accessibilityLayer={false}
      >
        <CartesianGrid stroke="var(--grid)" vertical={false} />
        <XAxis
          dataKey="frequencyHz"
          type="number"
          scale="log"
          domain={[fromHz, toHz]}
          ticks={TICKS_HZ.filter((hz) => hz >= fromHz && hz <= toHz)}
          tickFormatter={(hz: number) => (hz >= 1000 ? `${hz / 1000}k` : String(hz))}
          tick={TEXT}
          stroke="var(--rule)"
        />
        <YAxis domain={[0, MOST_LU]} ticks={[0, 1, 2, 3]} tick={TEXT} stroke="var(--rule)" />
        <ReferenceLine y={thresholdLu} stroke="var(--accent)" strokeDasharray="2 3" />
        {nowHz !== null && <ReferenceLine x={Math.min(toHz, Math.max(fromHz, nowHz))} stroke="var(--ink)" />}
        <Line dataKey="alone" stroke="var(--ink)" strokeWidth={1.6} dot={false} isAnimationActive={false} />
        <Line
          dataKey="inMix"
          stroke="var(--claim)"
          strokeWidth={1.6}
          strokeDasharray="5 3"
          dot={false}
          isAnimationActive={false}
        />
      </LineChart>
      <figcaption>
        LU lost: <span style={{ color: 'var(--ink)' }}>— alone</span>,{' '}
        <span style={{ color: 'var(--claim)' }}>- - in the mix</span>
        {nowHz !== null && `, now at ${writeFrequency(nowHz)}`}
      </figcaption>
    </figure>
  );
}
