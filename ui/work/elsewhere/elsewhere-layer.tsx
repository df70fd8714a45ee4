'use client';
import { useMemo } from 'react';
import styled from 'styled-components';
import { placeOf, placeResponseDb, unheardRanges } from '@/core/elsewhere';
import { writeGain } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ } from '../../kit/axis/scale';
import { HEADS_WIDTH } from '../../kit/axis/heads-width';
import { TextButton } from '../../kit/controls/button';
import { useListening } from '../../window/sound/listening';
import { useSong } from '../../window/song/song-store';
import { goElsewhere } from './elsewhere-store';

/** The curve of a place lies in a strip so high, with so many dB in it. */
const CURVE_HEIGHT = 34;
const CURVE_RANGE_DB = 24;
const POINTS = 160;

/** The strip above the lanes while the mix is heard elsewhere: where, how it is matched, and what the place does to the middle of the mix. */
export function ElsewhereStrip() {
  const desk = useDesk();
  const axis = useAxis();
  const id = useListening((listening) => listening.elsewhere);
  const gainDb = useListening((listening) => listening.elsewhereGainDb);
  const rateHz = useSong((song) => song.rateHz);
  const curve = useMemo(() => {
    const hz = Array.from(
      { length: POINTS },
      (_, i) => AXIS_LOW_HZ * (AXIS_HIGH_HZ / AXIS_LOW_HZ) ** (i / (POINTS - 1)),
    );
    const db = id ? placeResponseDb(placeOf(id), hz, rateHz) : [];
    return db.map((value, i) => ({ hz: hz[i], db: value }));
  }, [id, rateHz]);
  if (!id) return null;
  const { name, about } = placeOf(id);
  const y = (db: number) => Math.min(CURVE_HEIGHT - 1, Math.max(1, (0.4 - db / CURVE_RANGE_DB) * CURVE_HEIGHT));
  return (
    <Strip role="region" aria-label="Where the mix is heard" data-hint={about}>
      <div>
        <b>{name}</b>
        <span data-sound>matched {writeGain(gainDb)}</span>
        <TextButton onPress={() => goElsewhere(desk, null)}>Here again</TextButton>
      </div>
      <svg width={axis.width} height={CURVE_HEIGHT} role="img" aria-label={about}>
        <line x1={0} x2={axis.width} y1={y(0)} y2={y(0)} stroke="var(--rule)" strokeDasharray="1 3" />
        <polyline
          points={curve.map(({ hz, db }) => `${axis.x(hz).toFixed(1)},${y(db).toFixed(1)}`).join(' ')}
          fill="none"
          stroke="var(--accent)"
          strokeWidth={1.6}
        />
      </svg>
    </Strip>
  );
}

/** What is not heard elsewhere lies under a veil. @param top of the veil in its place, px */
export function ElsewhereVeil({ top = 0 }: { top?: number }) {
  const axis = useAxis();
  const id = useListening((listening) => listening.elsewhere);
  const rateHz = useSong((song) => song.rateHz);
  const unheard = useMemo(() => (id ? unheardRanges(placeOf(id), rateHz) : []), [id, rateHz]);
  const x = (frequencyHz: number) => Math.min(axis.width, Math.max(0, axis.x(frequencyHz)));
  return unheard.map(({ lowHz, highHz }) => (
    <Veil key={lowHz} data-testid="unheard" style={{ top, left: x(lowHz), width: x(highHz) - x(lowHz) }} />
  ));
}

const Strip = styled.div`
  display: flex;
  border-bottom: 1px solid var(--rule);
  background: var(--selected);
  font-size: 12.5px;
  div {
    display: grid;
    grid-template-columns: 1fr auto;
    align-content: center;
    gap: 0 8px;
    width: ${HEADS_WIDTH}px;
    padding: 0 12px 0 18px;
  }
  b {
    grid-column: 1 / 3;
    overflow: hidden;
    color: var(--accent);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  span {
    color: var(--soft);
  }
`;
const Veil = styled.div`
  position: absolute;
  z-index: 3;
  bottom: 0;
  background: color-mix(in srgb, var(--paper) 78%, transparent);
  pointer-events: none;
`;
