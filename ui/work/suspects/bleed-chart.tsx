'use client';
import { Area, CartesianGrid, ComposedChart, Line, ReferenceArea, XAxis, YAxis } from 'recharts';
import { writeFrequency } from '@/core/formats';
import type { Bleed } from '@/core/measure';
import { CHART, CHART_TEXT, shortHz } from './chart';

/** Below the loudest third-octave nothing further down is drawn, dB. */
const SHOWN_DB = 60;

/** What a bleed was found by: all that is there by third-octaves, and what of it goes with the other track. */
export function BleedChart({ bleed, sourceName }: { bleed: Bleed; sourceName: string }) {
  const { frequenciesHz, wholeDb, othersDb } = bleed.picture;
  const shown = (db: number) => Math.max(-SHOWN_DB, db);
  const points = frequenciesHz.map((hz, i) => ({ hz, whole: shown(wholeDb[i]), others: shown(othersDb[i]) }));
  const range = `${writeFrequency(Number(bleed.lowHz.toPrecision(2)))} to ${writeFrequency(Number(bleed.highHz.toPrecision(2)))}`;
  return (
    <figure
      role="img"
      aria-label={`Levels by third-octaves: from ${range} ${Math.round(100 * bleed.share)} % go with ${sourceName}`}
      style={{ gridColumn: '1 / 3', margin: '4px 0' }}
    >
      <ComposedChart {...CHART} data={points}>
        <CartesianGrid stroke="var(--grid)" vertical={false} />
        <XAxis
          dataKey="hz"
          type="number"
          scale="log"
          domain={[frequenciesHz[0], frequenciesHz[frequenciesHz.length - 1]]}
          ticks={[100, 1000, 10000]}
          tickFormatter={shortHz}
          tick={CHART_TEXT}
          stroke="var(--rule)"
        />
        <YAxis domain={[-SHOWN_DB, 0]} ticks={[-60, -40, -20, 0]} tick={CHART_TEXT} stroke="var(--rule)" />
        <ReferenceArea x1={bleed.lowHz} x2={bleed.highHz} fill="var(--accent)" fillOpacity={0.14} />
        <Area
          dataKey="others"
          baseValue={-SHOWN_DB}
          stroke="none"
          fill="var(--ink)"
          fillOpacity={0.22}
          activeDot={false}
          isAnimationActive={false}
        />
        <Line
          dataKey="whole"
          stroke="var(--ink)"
          strokeWidth={1.6}
          dot={false}
          activeDot={false}
          isAnimationActive={false}
        />
      </ComposedChart>
      <figcaption style={{ color: 'var(--soft)', fontSize: 12 }}>
        dB by third-octaves: — all that is there, shaded what goes with {sourceName}
      </figcaption>
    </figure>
  );
}
