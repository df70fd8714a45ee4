'use client';
import { useMemo } from 'react';
import styled from 'styled-components';
import { placeOf, placeResponseDb, unheardRanges } from '@/core/elsewhere';
import { writeGain } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ } from '../../kit/axis/scale';
import { TextButton } from '../../kit/controls/button';
import { useListening } from '../../window/sound/listening';
import { useSong } from '../../window/song/song-store';
import { goElsewhere } from './elsewhere-store';

/** The curve of a place lies in a strip so high, with so many dB in it. */
const CURVE_HEIGHT = 34;
const CURVE_RANGE_DB = 24;
const POINTS = 160;

/** What is not heard elsewhere lies under a veil, through ruler, lanes and bench; above it runs what the place does to the middle of the mix. */
export function ElsewhereLayer() {
  const desk = useDesk();
  const axis = useAxis();
  const id = useListening((listening) => listening.elsewhere);
  const gainDb = useListening((listening) => listening.elsewhereGainDb);
  const rateHz = useSong((song) => song.rateHz);
  const drawn = useMemo(() => {
    if (!id) return null;
    const place = placeOf(id);
    const hz = Array.from(
      { length: POINTS },
      (_, i) => AXIS_LOW_HZ * (AXIS_HIGH_HZ / AXIS_LOW_HZ) ** (i / (POINTS - 1)),
    );
    return { place, hz, db: placeResponseDb(place, hz, rateHz), unheard: unheardRanges(place, rateHz) };
  }, [id, rateHz]);
  if (!drawn || axis.width === 0) return null;
  const { place, hz, db, unheard } = drawn;
  const x = (frequencyHz: number) => Math.min(axis.width, Math.max(0, axis.x(frequencyHz)));
  const y = (value: number) => Math.min(CURVE_HEIGHT, Math.max(1, (0.4 - value / CURVE_RANGE_DB) * CURVE_HEIGHT));
  return (
    <Layer data-testid="elsewhere">
      {unheard.map(({ lowHz, highHz }) => (
        <Veil key={lowHz} style={{ left: x(lowHz), width: x(highHz) - x(lowHz) }} />
      ))}
      <Line>
        <b>{place.name}</b>
        <span>
          {place.about} Matched {writeGain(gainDb)}.
        </span>
        <TextButton onPress={() => goElsewhere(desk, null)}>Here again</TextButton>
      </Line>
      <Curve width={axis.width} height={CURVE_HEIGHT} aria-hidden>
        <line x1={0} x2={axis.width} y1={y(0)} y2={y(0)} stroke="var(--rule)" strokeDasharray="1 3" />
        <polyline
          points={hz.map((each, i) => `${axis.x(each).toFixed(1)},${y(db[i]).toFixed(1)}`).join(' ')}
          fill="none"
          stroke="var(--accent)"
          strokeWidth={1.6}
        />
      </Curve>
    </Layer>
  );
}

const Layer = styled.div`
  grid-column: 2;
  grid-row: 1 / -1;
  position: relative;
  z-index: 3;
  overflow: hidden;
  pointer-events: none;
`;
const Veil = styled.div`
  position: absolute;
  top: 58px;
  bottom: 0;
  background: color-mix(in srgb, var(--paper) 78%, transparent);
`;
const Line = styled.div`
  position: absolute;
  top: 58px;
  left: 0;
  right: 0;
  display: flex;
  align-items: baseline;
  gap: 8px;
  padding: 2px 8px;
  border-bottom: 1px solid var(--rule);
  background: var(--selected);
  font-size: 12.5px;
  b {
    color: var(--accent);
    white-space: nowrap;
  }
  span {
    flex: 1;
    overflow: hidden;
    color: var(--soft);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  button {
    pointer-events: auto;
  }
`;
const Curve = styled.svg`
  position: absolute;
  top: 82px;
  left: 0;
`;
