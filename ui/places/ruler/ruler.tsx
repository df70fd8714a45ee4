'use client';
import { useState } from 'react';
import styled from 'styled-components';
import { MASTER_ID } from '@/core/song';
import { AXIS_HIGH_HZ, AXIS_TICKS, NOTE_TICKS, REGIONS } from '../../kit/axis/scale';
import { useAxis } from '../../kit/axis/axis-context';
import { useCrosshair } from '../../window/crosshair/use-crosshair';
import { LANDMARK_ROW, LandmarkRow } from '../../work/landmarks/landmark-row';
import { SERIF } from '../../kit/theme/tokens';

/** The regions by name, and hertz or notes. */
export function Ruler() {
  const axis = useAxis();
  const crosshair = useCrosshair();
  const [isInNotes, setIsInNotes] = useState(false);
  const ends = REGIONS.map((_, i) => REGIONS[i + 1]?.fromHz ?? AXIS_HIGH_HZ);
  const anchor = (x: number) => (x < 8 ? 'start' : x > axis.width - 8 ? 'end' : 'middle');
  return (
    <Scale
      type="button"
      aria-pressed={isInNotes}
      aria-label="Frequency axis, 20 Hz to 20 kHz: notes instead of hertz"
      data-hint="Click for notes or hertz"
      onClick={() => setIsInNotes(!isInNotes)}
      {...crosshair}
      data-earshot={MASTER_ID}
    >
      <svg width="100%" height={40 + LANDMARK_ROW} aria-hidden>
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
          (isInNotes ? NOTE_TICKS : AXIS_TICKS).map(({ hz, label }) => (
            <Tick key={hz} x={axis.x(hz)} y={34} textAnchor={anchor(axis.x(hz))}>
              {label}
            </Tick>
          ))}
        <LandmarkRow />
      </svg>
    </Scale>
  );
}

const Scale = styled.button`
  display: block;
  min-width: 0;
  padding: 0;
  border: 0;
  background: none;
  cursor: default;
`;
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
