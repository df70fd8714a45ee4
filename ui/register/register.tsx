'use client';
import { memo, useRef, useState } from 'react';
import styled from 'styled-components';
import { compileSong } from '@/core/engine';
import { findStrip, type RegisterRow } from '@/core/song';
import { useSize } from '../axis';
import { useRidgeTop } from '../session';
import { carriesEqualizer, carriedEqualizer, putCopied, togetherWith, useSelection, useSong } from '../song';
import { LaneField } from './lane-field';
import { LaneHead } from './lane-head';
import { useRows } from './rows';

const LOWEST_LANE = 25;
const HIGHEST_LANE = 110;

/** A lane for each track under its group, then the master, all on the one frequency axis. */
export function Register() {
  const box = useRef<HTMLDivElement>(null);
  const { height } = useSize(box);
  const rows = useRows();
  const topDb = useRidgeTop();
  const laneHeight = Math.min(HIGHEST_LANE, Math.max(LOWEST_LANE, Math.floor(height / rows.length)));
  return (
    <Lanes ref={box} role="group" aria-label="Register">
      {height > 0 && rows.map((row) => <Lane key={row.id} {...row} height={laneHeight} topDb={topDb} />)}
    </Lanes>
  );
}

interface LaneProps extends RegisterRow {
  height: number;
  topDb: number;
}

const Lane = memo(function Lane({ id, kind, depth, isFolded, height, topDb }: LaneProps) {
  const strip = useSong((song) => findStrip(song, id));
  const trackIndex = useSong((song) => song.tracks.findIndex((track) => track.id === id));
  const isSilent = useSong((song) => trackIndex >= 0 && compileSong(song).tracks[trackIndex]?.audible === 0);
  const isChosen = useSelection((selection) => selection.stripId === id);
  const isTogether = useSelection((selection) => selection.others.includes(id));
  const [isTarget, setIsTarget] = useState(false);
  if (!strip) return null;
  return (
    <Row
      style={{ height }}
      data-chosen={isChosen || undefined}
      data-together={isTogether || undefined}
      data-target={isTarget || undefined}
      data-testid={`lane-${id}`}
      role="group"
      aria-label={'name' in strip ? strip.name : 'Master'}
      aria-current={isChosen || isTogether || undefined}
      onDragOver={(event) => {
        if (!carriesEqualizer(event.dataTransfer)) return;
        event.preventDefault();
        event.dataTransfer.dropEffect = 'copy';
        setIsTarget(true);
      }}
      onDragLeave={() => setIsTarget(false)}
      onDrop={(event) => {
        const carried = carriedEqualizer(event.dataTransfer);
        setIsTarget(false);
        if (!carried) return;
        event.preventDefault();
        putCopied(togetherWith(id), carried);
      }}
    >
      <LaneHead
        stripId={id}
        kind={kind}
        depth={depth}
        isFolded={isFolded}
        trackIndex={kind === 'track' ? trackIndex : null}
        height={height}
      />
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
  /* A lane that is scrolled out of sight costs nothing. */
  content-visibility: auto;
  grid-template-columns: minmax(0, 1fr) var(--field-width);
  direction: ltr;
  border-top: 1px solid var(--grid);
  border-left: 3px solid transparent;
  &[data-chosen] {
    border-left-color: var(--ink-6);
    background: var(--selected);
  }
  &[data-together] {
    border-left-color: var(--soft);
    background: var(--selected);
  }
  &[data-target] {
    background: var(--grid);
  }
`;
