'use client';
import { CartesianGrid, Line, LineChart, ReferenceLine, XAxis, YAxis } from 'recharts';
import { writeFrequency, writeNumber } from '@/core/formats';
import type { StereoBand } from '@/core/measure';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ } from '../../kit/axis/scale';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useDesk } from '../../window/desk/desk';

const WIDTH = 236;
const HEIGHT = 120;
const TICKS_HZ = [20, 100, 1000, 10000];
const TEXT = { fill: 'var(--soft)', fontSize: 11 };

/** Correlation, and how much of the power is in the sides, against frequency. Pointed at, the crosshair stands there on the shared axis. */
export function StereoChart({ bands }: { bands: readonly StereoBand[] }) {
  const desk = useDesk();
  const told = bands.filter(({ correlation }) => correlation !== null);
  const words = told
    .filter((_, i) => i % 3 === 0)
    .map(
      ({ hz, correlation, sideShare }) =>
        `${writeFrequency(hz)}: correlation ${writeNumber(correlation!)}, sides ${Math.round(100 * (sideShare ?? 0))} %`,
    );
  return (
    <figure
      role="img"
      aria-label={`Correlation and sides by range: ${words.join('; ') || 'silent'}`}
      style={{ margin: '4px 0' }}
      onPointerLeave={() => showCrosshair(desk, null)}
    >
      <LineChart
        width={WIDTH}
        height={HEIGHT}
        data={[...bands]}
        margin={{ top: 6, right: 8, bottom: 0, left: -26 }}
        accessibilityLayer={false}
        onMouseMove={({ activeLabel }, event) => {
          if (typeof activeLabel === 'number') showCrosshair(desk, { hz: activeLabel, clientY: event.clientY });
        }}
      >
        <CartesianGrid stroke="var(--grid)" vertical={false} />
        <XAxis
          dataKey="hz"
          type="number"
          scale="log"
          domain={[AXIS_LOW_HZ, AXIS_HIGH_HZ]}
          allowDataOverflow
          ticks={TICKS_HZ}
          tickFormatter={(hz: number) => (hz >= 1000 ? `${hz / 1000}k` : String(hz))}
          tick={TEXT}
          stroke="var(--rule)"
        />
        <YAxis domain={[-1, 1]} ticks={[-1, 0, 1]} tick={TEXT} stroke="var(--rule)" />
        <ReferenceLine y={0} stroke="var(--rule)" />
        <Line dataKey="correlation" stroke="var(--ink)" strokeWidth={1.6} dot={false} isAnimationActive={false} />
        <Line
          dataKey="sideShare"
          stroke="var(--claim)"
          strokeWidth={1.6}
          strokeDasharray="5 3"
          dot={false}
          isAnimationActive={false}
        />
      </LineChart>
      <figcaption>
        <span style={{ color: 'var(--ink)' }}>— correlation</span>,{' '}
        <span style={{ color: 'var(--claim)' }}>- - share of the sides</span>
      </figcaption>
    </figure>
  );
}
