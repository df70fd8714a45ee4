'use client';
import { Area, CartesianGrid, ComposedChart, Line, ReferenceArea, ReferenceLine, XAxis, YAxis } from 'recharts';
import { writeFrequency } from '@/core/formats';
import type { Suspect } from '@/core/suspects';
import { CHART, CHART_TEXT, shortHz } from './chart';

/** What a suspect was found by: what is there in soft, usual and loud moments, around its range. */
export function SuspectChart({ suspect }: { suspect: Suspect }) {
  const { frequenciesHz, softDb, middleDb, loudDb, isRelative } = suspect.picture;
  if (frequenciesHz.length === 0) return null;
  const points = frequenciesHz.map((hz, i) => ({ hz, span: [softDb[i], loudDb[i]], middle: middleDb[i] }));
  const [fromHz, toHz] = [frequenciesHz[0], frequenciesHz[frequenciesHz.length - 1]];
  const at = frequenciesHz.reduce(
    (best, hz, i) =>
      Math.abs(hz - suspect.frequencyHz) < Math.abs(frequenciesHz[best] - suspect.frequencyHz) ? i : best,
    0,
  );
  const what = isRelative ? 'over what is around' : 'full scale';
  return (
    <figure
      role="img"
      aria-label={`Levels around ${writeFrequency(suspect.frequencyHz)}: there ${Math.round(softDb[at])}, ${Math.round(middleDb[at])} and ${Math.round(loudDb[at])} dB ${what} in soft, usual and loud moments`}
      style={{ gridColumn: '1 / 3', margin: '4px 0' }}
    >
      <ComposedChart {...CHART} data={points}>
        <CartesianGrid stroke="var(--grid)" vertical={false} />
        <XAxis
          dataKey="hz"
          type="number"
          scale="log"
          domain={[fromHz, toHz]}
          ticks={[fromHz, suspect.frequencyHz, toHz]}
          tickFormatter={shortHz}
          tick={CHART_TEXT}
          stroke="var(--rule)"
        />
        <YAxis
          domain={['auto', 'auto']}
          tickCount={4}
          tickFormatter={(db: number) => String(Math.round(db))}
          tick={CHART_TEXT}
          stroke="var(--rule)"
        />
        <ReferenceArea
          x1={Math.max(fromHz, suspect.lowHz)}
          x2={Math.min(toHz, suspect.highHz)}
          fill="var(--accent)"
          fillOpacity={0.14}
        />
        {isRelative && <ReferenceLine y={0} stroke="var(--rule)" />}
        <Area
          dataKey="span"
          stroke="none"
          fill="var(--ink)"
          fillOpacity={0.12}
          activeDot={false}
          isAnimationActive={false}
        />
        <Line
          dataKey="middle"
          stroke="var(--ink)"
          strokeWidth={1.6}
          dot={false}
          activeDot={false}
          isAnimationActive={false}
        />
      </ComposedChart>
      <figcaption style={{ color: 'var(--soft)', fontSize: 12 }}>
        dB {what}: — half of the time, shaded from soft to loud moments
      </figcaption>
    </figure>
  );
}
