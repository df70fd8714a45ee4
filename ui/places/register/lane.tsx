'use client';
import { memo, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { findStrip, type RegisterRow } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { carriedEqualizer, carriesEqualizer } from '../../window/song/carry';
import { putCopied } from '../../window/song/equalizer-edits';
import { togetherWith, useSelection } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { LaneField } from './lane-field';
import { LaneHead } from './lane-head';

interface LaneProps extends RegisterRow {
  height: number;
  /** True where Tab reaches it. */
  isReached: boolean;
  /** False far out of sight: then it has no controls. */
  isNear: boolean;
}

export const Lane = memo(function Lane({ id, kind, depth, isFolded, height, isReached, isNear }: LaneProps) {
  const desk = useDesk();
  const row = useRef<HTMLDivElement>(null);
  const name = useSong((song) => {
    const strip = findStrip(song, id);
    return strip && ('name' in strip ? strip.name : 'Master');
  });
  const trackIndex = useSong((song) => song.tracks.findIndex((track) => track.id === id));
  const isChosen = useSelection((selection) => selection.stripId === id);
  const isTogether = useSelection((selection) => selection.others.includes(id));
  const isLast = useSelection((selection) => selection.lastId === id);
  const [isTarget, setIsTarget] = useState(false);
  // Whatever chose it, and however high lanes are: a track that is chosen is in sight.
  useEffect(() => {
    if (isChosen || isLast) row.current?.scrollIntoView({ block: 'nearest' });
  }, [isChosen, isLast, height]);
  if (name === undefined) return null;
  return (
    <Row
      ref={row}
      style={{ height }}
      data-chosen={isChosen || undefined}
      data-together={isTogether || undefined}
      data-target={isTarget || undefined}
      data-testid={`lane-${id}`}
      data-takes-copies
      role="group"
      aria-label={name}
      aria-current={isChosen || isTogether || undefined}
      onDragOver={(event) => {
        if (!carriesEqualizer(event.dataTransfer)) return;
        event.preventDefault();
        // The page, which takes recordings, would refuse it.
        event.stopPropagation();
        event.dataTransfer.dropEffect = 'copy';
        setIsTarget(true);
      }}
      onDragLeave={() => setIsTarget(false)}
      onDrop={(event) => {
        const carried = carriedEqualizer(event.dataTransfer);
        setIsTarget(false);
        if (!carried) return;
        event.preventDefault();
        putCopied(desk, togetherWith(desk, id), carried);
      }}
    >
      {isNear ? (
        <LaneHead
          stripId={id}
          kind={kind}
          depth={depth}
          isFolded={isFolded}
          isChosen={isChosen}
          isReached={isReached}
          trackIndex={kind === 'track' ? trackIndex : null}
          height={height}
        />
      ) : (
        <span>{name}</span>
      )}
      {isNear && <LaneField stripId={id} height={height} isReached={isReached} />}
    </Row>
  );
});

/** Its field is clear: the picture lies behind it. */
const Row = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) var(--field-width);
  border-top: 1px solid var(--grid);
  border-left: 3px solid var(--unseen);
  &[data-chosen] {
    border-left-color: var(--ink-6);
  }
  &[data-together] {
    border-left-color: var(--soft);
  }
  &[data-chosen] > :first-child,
  &[data-together] > :first-child {
    background: var(--selected);
  }
  &[data-target] {
    background: color-mix(in srgb, var(--grid) 60%, transparent);
  }
`;
