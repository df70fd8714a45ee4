'use client';
import { memo, useRef } from 'react';
import styled from 'styled-components';
import { writeFrequency } from '@/core/formats';
import type { FrequencyBand } from '@/core/measure';
import { FREQUENCY_RANGE_HZ, type Track } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { arrowDirection, stepSize, rangeKeyHz } from '../../kit/gestures/steps';
import { dragEdit } from '../../window/song/edit-drag';
import { useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { addClaim, dragClaim, removeClaim, stepClaim, type ClaimPart, changeClaim } from './claim-edits';
import { useLiveStrip } from '../../window/song/use-live-strip';
import type { FrequencyScale } from '../../kit/axis/scale';
import { isDeleteKey } from '../../kit/gestures/plain-key';

const EDGES = { low: 'lower edge', high: 'upper edge' } as const;
type Edge = keyof typeof EDGES;

const moved = (claim: FrequencyBand, edge: Edge, hz: number): FrequencyBand =>
  edge === 'low' ? { ...claim, lowHz: hz } : { ...claim, highHz: hz };

/** A new claim must be drawn at least this far, pixels: less is a click. */
const LEAST_DRAG = 4;

interface LaneClaimsProps extends Pick<Track, 'id' | 'name' | 'claims'> {
  /** True where Tab reaches them: in the lane that is chosen. */
  isReached: boolean;
}

/** The claims of a track under its ridge: brackets whose edges and middle can be dragged; where none is, one is drawn. */
export const LaneClaims = memo(function LaneClaims({ id, name, claims, isReached }: LaneClaimsProps) {
  const track = { id, claims };
  const desk = useDesk();
  const axis = useAxis();
  const brackets = useRef<HTMLDivElement>(null);
  useLiveStrip(id, (now) => {
    if ('claims' in now && brackets.current) placeClaims(brackets.current, now.claims, axis);
  });
  const grab = (part: ClaimPart, index: number) => (event: React.PointerEvent) => {
    // With Alt both ends of the track are moved: that is the field's.
    if (event.altKey) return;
    useSelection.of(desk).chooseStrip(id);
    dragEdit(desk, event, 'Move a claim', ({ dx }) => dragClaim(track, index, part, dx, axis));
  };
  const steer = (edge: Edge, index: number) => (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey) return;
    const arrow = arrowDirection(event);
    const hz = rangeKeyHz(event, claims[index][`${edge}Hz`]);
    const { edit, editByKey } = useSongStore.of(desk);
    if (arrow) {
      const part = arrow.axis === 'x' ? edge : 'whole';
      const step = stepClaim(track, index, part, arrow.direction, stepSize(event));
      editByKey(step, 'Move a claim', `${id}/claim/${index}/${part}`);
    } else if (hz !== null) edit(changeClaim(track, index, moved(claims[index], edge, hz), edge), 'Move a claim');
    else if (isDeleteKey(event)) edit(removeClaim(track, index), 'Give a claim up');
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <>
      <Foot
        data-testid={`claim-ground-${id}`}
        data-hint="Drag here to claim a range: where this track is meant to be heard"
        onPointerDown={(event) => {
          useSelection.of(desk).chooseStrip(id);
          const left = event.currentTarget.getBoundingClientRect().left;
          const from = event.clientX - left;
          dragEdit(desk, event, 'Claim a range', ({ dx }) =>
            Math.abs(dx) < LEAST_DRAG ? null : addClaim(track, axis.hz(from), axis.hz(from + dx)),
          );
        }}
      />
      <div ref={brackets}>
        {claims.map((claim, index) => {
          const range = `${writeFrequency(claim.lowHz)} to ${writeFrequency(claim.highHz)}`;
          const handle = (edge: Edge) => (
            <Grip
              role="slider"
              tabIndex={isReached ? 0 : -1}
              aria-label={`${name}, claim ${index + 1}, ${EDGES[edge]}`}
              aria-valuemin={FREQUENCY_RANGE_HZ.min}
              aria-valuemax={FREQUENCY_RANGE_HZ.max}
              aria-valuenow={claim[`${edge}Hz`]}
              aria-valuetext={range}
              data-hint={`Claims ${range} · drag an end or the middle · ← → this end, ↑ ↓ all of it, Delete gives it up`}
              onPointerDown={grab(edge, index)}
              onKeyDown={steer(edge, index)}
            />
          );
          return (
            // A track has few claims, and they keep their order.
            <div key={index}>
              <Bracket className="sign" />
              <Middle data-hint={`Claims ${range} · drag it to another place`} onPointerDown={grab('whole', index)} />
              {handle('low')}
              {handle('high')}
            </div>
          );
        })}
      </div>
    </>
  );
});

/** Each claim is four elements: its bracket, its middle, its two ends. */
function placeClaims(brackets: HTMLElement, claims: Track['claims'], axis: FrequencyScale): void {
  const within = (hz: number) => Math.min(axis.width, Math.max(0, axis.x(hz)));
  claims.forEach(({ lowHz, highHz }, i) => {
    const [from, to] = [within(lowHz), within(highHz)];
    const [bracket, middle, low, high] = (brackets.children[i]?.children ?? []) as unknown as HTMLElement[];
    if (!bracket) return;
    for (const part of [bracket, middle]) {
      part.style.left = `${from}px`;
      part.style.width = `${Math.max(3, to - from)}px`;
    }
    low.style.left = `${from - GRIP / 2}px`;
    high.style.left = `${to - GRIP / 2}px`;
  });
}

const Foot = styled.div`
  position: absolute;
  right: 0;
  bottom: 0;
  left: 0;
  height: 8px;
  cursor: crosshair;
  touch-action: none;
`;
const Bracket = styled.div`
  position: absolute;
  bottom: 0;
  height: 6px;
  border: solid var(--claim);
  border-width: 0 2px 2px;
  pointer-events: none;
`;
/** As large as a target must be; the lane's posts lie above it. */
const GRIP = 24;
const Grip = styled.div`
  position: absolute;
  bottom: 0;
  width: ${GRIP}px;
  height: ${GRIP}px;
  cursor: ew-resize;
  touch-action: none;
  outline: none;
  &:focus-visible {
    outline: 2px solid var(--claim);
    outline-offset: -2px;
    border-radius: 3px;
  }
`;
const Middle = styled.div`
  position: absolute;
  bottom: 0;
  height: 10px;
  cursor: grab;
  touch-action: none;
`;
