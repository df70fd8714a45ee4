'use client';
import styled from 'styled-components';
import { writeFrequency, writeGain, writeNote, writeNumber } from '@/core/formats';
import type { Probe } from '@/core/engine';
import { analogMagnitudeDb, prototype } from '@/core/filters';
import { BAND_DEFAULTS, channelsOut, FREQUENCY_RANGE_HZ } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import type { FrequencyScale } from '../../kit/axis/scale';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useListening } from '../../window/sound/listening';
import { useChosenStrip, useSelection } from '../../window/song/selection';
import { flipMark, MISLEADING_GAIN_DB, removeMark, useMarks } from './probe-store';
import { isDeleteKey, plainKey } from '../../kit/gestures/plain-key';

/** The probe and the marks of the chosen track, on the bench. */
export function ProbeLayer({ height, y }: { height: number; y: (db: number) => number }) {
  const desk = useDesk();
  const axis = useAxis();
  const stripId = useSelection((selection) => selection.stripId);
  const isMono = channelsOut(useChosenStrip()) === 1;
  const marks = useMarks(stripId);
  const probe = useListening((listening) => listening.probe);
  // A mono track has one path.
  const path = !probe || isMono || probe.channel === 'stereo' ? '' : ` on ${probe.channel}`;
  return (
    <>
      {marks.map((hz) => (
        <Mark
          key={hz}
          role="button"
          tabIndex={0}
          aria-label={`Mark at ${writeFrequency(hz)}: turn it into a cut`}
          data-hint="Click or Enter turns this mark into a cut of 3 dB · Delete removes it"
          transform={`translate(${axis.x(hz)} 0)`}
          onPointerDown={(event) => event.stopPropagation()}
          onDoubleClick={(event) => event.stopPropagation()}
          onClick={() => flipMark(desk, hz)}
          onFocus={(event) => {
            if (event.currentTarget.matches(':focus-visible'))
              showCrosshair(desk, { hz, clientY: event.currentTarget.getBoundingClientRect().top });
          }}
          onBlur={() => showCrosshair(desk, null)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' || plainKey(event) === 'f') flipMark(desk, hz);
            else if (isDeleteKey(event)) removeMark(desk, stripId, hz);
            else return;
            event.preventDefault();
            event.stopPropagation();
          }}
        >
          <rect x={-11} y={0} width={22} height={20} className="grip" />
          <line y1={0} y2={height} />
          <path d="M0 2 H11 L8 7 L11 12 H0 Z" />
        </Mark>
      ))}
      {probe && (
        <Probing
          role="slider"
          aria-label="Probe"
          aria-valuemin={FREQUENCY_RANGE_HZ.min}
          aria-valuemax={FREQUENCY_RANGE_HZ.max}
          aria-valuenow={probe.frequencyHz}
          aria-valuetext={`${writeFrequency(probe.frequencyHz)}, ${writeNote(probe.frequencyHz)}`}
          transform={`translate(${axis.x(probe.frequencyHz)} 0)`}
        >
          <line y1={0} y2={height} />
          <path d={bellPath(probe, axis, y)} />
          <g transform={`translate(${axis.x(probe.frequencyHz) > axis.width - 220 ? -12 : 12} ${height - 46})`}>
            {[
              `${writeFrequency(probe.frequencyHz)}, ${writeGain(probe.gainDb)}, Q ${writeNumber(probe.q)}${path}`,
              'M marks, F turns into a cut',
              probe.gainDb >= MISLEADING_GAIN_DB ? 'Pushed this far, everything sounds odd' : '',
            ].map((line, i) => (
              <text
                key={line}
                y={i * 16}
                className={i === 2 ? 'warning' : undefined}
                textAnchor={axis.x(probe.frequencyHz) > axis.width - 220 ? 'end' : 'start'}
              >
                {line}
              </text>
            ))}
          </g>
        </Probing>
      )}
    </>
  );
}

/** Octaves on either side in which the probe's bell is drawn. */
const REACH_OCTAVES = 1.5;
const POINTS = 60;

/** The bell of the probe, about its own place. */
function bellPath({ frequencyHz, gainDb, q }: Probe, axis: FrequencyScale, y: (db: number) => number): string {
  const bell = prototype({ ...BAND_DEFAULTS, type: 'bell', frequencyHz, gainDb, q });
  const points = Array.from({ length: 2 * POINTS + 1 }, (_, i) => {
    const hz = frequencyHz * 2 ** ((REACH_OCTAVES * (i - POINTS)) / POINTS);
    return `${(axis.x(hz) - axis.x(frequencyHz)).toFixed(1)} ${y(analogMagnitudeDb(bell, frequencyHz, hz)).toFixed(1)}`;
  });
  return `M${points.join('L')}`;
}

const Mark = styled.g`
  outline: none;
  cursor: pointer;
  .grip {
    fill: transparent;
  }
  line {
    stroke: var(--claim);
    stroke-width: 1;
    stroke-dasharray: 2 4;
    pointer-events: none;
  }
  path {
    fill: var(--claim);
  }
  &:hover path,
  &:focus-visible path {
    fill: var(--accent);
  }
  &:focus-visible line {
    stroke: var(--accent);
    stroke-width: 2;
  }
`;
const Probing = styled.g`
  pointer-events: none;
  line {
    stroke: var(--accent);
    stroke-width: 1.5;
  }
  path {
    fill: none;
    stroke: var(--accent);
    stroke-width: 1.5;
    stroke-dasharray: 5 3;
  }
  text {
    fill: var(--ink);
    font-size: 12px;
    font-weight: 600;
    paint-order: stroke;
    stroke: var(--field);
    stroke-width: 4px;
  }
  .warning {
    fill: var(--accent);
  }
`;
