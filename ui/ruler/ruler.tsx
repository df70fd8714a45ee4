'use client';
import styled from 'styled-components';
import { AXIS_HIGH_HZ, AXIS_TICKS, REGIONS, useAxis } from '../axis';
import { useCrosshair } from '../crosshair';
import { SERIF } from '../theme';

/** Hertz, and the regions by name. */
export function Ruler() {
  const axis = useAxis();
  const crosshair = useCrosshair();
  const ends = REGIONS.map((_, i) => REGIONS[i + 1]?.fromHz ?? AXIS_HIGH_HZ);
  return (
    <svg width="100%" height={40} role="img" aria-label="Frequency axis, 20 Hz to 20 kHz" {...crosshair}>
      {axis.width > 0 &&
        REGIONS.map(({ name, fromHz }, i) => (
          <g key={name}>
            {i > 0 && <Edge x1={axis.x(fromHz)} x2={axis.x(fromHz)} y1={4} y2={19} />}
            <Region x={(axis.x(fromHz) + axis.x(ends[i])) / 2} y={16}>
              {name}
            </Region>
          </g>
        ))}
      {axis.width > 0 &&
        AXIS_TICKS.map(({ hz, label }, i) => (
          <Tick
            key={hz}
            x={axis.x(hz)}
            y={34}
            textAnchor={i === 0 ? 'start' : i === AXIS_TICKS.length - 1 ? 'end' : 'middle'}
          >
            {label}
          </Tick>
        ))}
    </svg>
  );
}

const Edge = styled.line`
  stroke: var(--rule);
`;
const Region = styled.text`
  fill: var(--soft);
  font: italic 400 14px ${SERIF};
  letter-spacing: 0.06em;
  text-anchor: middle;
`;
const Tick = styled.text`
  fill: var(--ink);
  font-size: 11.5px;
`;
