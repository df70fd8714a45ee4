'use client';
import { memo, useRef } from 'react';
import styled from 'styled-components';
import { compileSong } from '@/core/engine';
import { findStrip, MASTER_ID } from '@/core/song';
import { useSize } from '../axis';
import { useRidgeTop } from '../session';
import { useSelection, useSong } from '../song';
import { LaneField } from './lane-field';
import { LaneHead } from './lane-head';

const LOWEST_LANE = 25;
const HIGHEST_LANE = 56;

/** A lane for each track, then the buses and the master, all on the one frequency axis. */
export function Register() {
  const box = useRef<HTMLDivElement>(null);
  const { height } = useSize(box);
  const ids = useSong((song) => [...song.tracks, ...song.buses].map((strip) => strip.id).join(' '));
  const tracks = useSong((song) => song.tracks.length);
  const topDb = useRidgeTop();
  const lanes = [...ids.split(' ').filter(Boolean), MASTER_ID];
  const laneHeight = Math.min(HIGHEST_LANE, Math.max(LOWEST_LANE, Math.floor(height / lanes.length)));
  return (
    <Lanes ref={box} role="group" aria-label="Register">
      {height > 0 &&
        lanes.map((id, i) => (
          <Lane key={id} stripId={id} trackIndex={i < tracks ? i : null} height={laneHeight} topDb={topDb} />
        ))}
    </Lanes>
  );
}

interface LaneProps {
  stripId: string;
  trackIndex: number | null;
  height: number;
  topDb: number;
}

const Lane = memo(function Lane({ stripId, trackIndex, height, topDb }: LaneProps) {
  const strip = useSong((song) => findStrip(song, stripId));
  const isSilent = useSong((song) => trackIndex !== null && compileSong(song).tracks[trackIndex]?.audible === 0);
  const isChosen = useSelection((selection) => selection.stripId === stripId);
  if (!strip) return null;
  return (
    <Row
      style={{ height }}
      data-chosen={isChosen || undefined}
      data-testid={`lane-${stripId}`}
      role="group"
      aria-label={'name' in strip ? strip.name : 'Master'}
    >
      <LaneHead stripId={stripId} trackIndex={trackIndex} height={height} />
      <LaneField strip={strip} height={height} topDb={topDb} isSilent={isSilent} />
    </Row>
  );
});

/** The scroll bar stands on the left, where it takes nothing from the axis. */
const Lanes = styled.div`
  min-height: 0;
  overflow: hidden auto;
  direction: rtl;
  scrollbar-width: thin;
  scrollbar-color: var(--rule) transparent;
`;
const Row = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) var(--field-width);
  direction: ltr;
  border-top: 1px solid var(--grid);
  border-left: 3px solid transparent;
  &[data-chosen] {
    border-left-color: var(--ink-6);
    background: var(--selected);
  }
`;
