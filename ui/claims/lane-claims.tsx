'use client';
import styled from 'styled-components';
import { writeFrequency } from '@/core/formats';
import { FREQUENCY_RANGE_HZ, type Track } from '@/core/song';
import { useAxis } from '../axis';
import { arrowDirection, dragEdit, stepSize } from '../gestures';
import { useSelection, useSongStore } from '../song';
import { addClaim, dragClaim, removeClaim, stepClaim, type ClaimPart } from './claim-edits';

const EDGES = { low: 'lower edge', high: 'upper edge' } as const;
type Edge = keyof typeof EDGES;

/** A new claim must be drawn at least this far, pixels: less is a click. */
const LEAST_DRAG = 4;

/** The claims of a track under its ridge: brackets whose edges and middle can be dragged; where none is, one is drawn. */
export function LaneClaims({ track }: { track: Track }) {
  const axis = useAxis();
  const grab = (part: ClaimPart, index: number) => (event: React.PointerEvent) => {
    // With Alt both ends of the track are moved: that is the field's.
    if (event.altKey) return;
    useSelection.getState().chooseStrip(track.id);
    dragEdit(event, 'Move a claim', ({ dx }) => dragClaim(track, index, part, dx, axis));
  };
  const steer = (edge: Edge, index: number) => (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey) return;
    const arrow = arrowDirection(event);
    if (arrow) {
      const part = arrow.axis === 'x' ? edge : 'whole';
      const step = stepClaim(track, index, part, arrow.direction, stepSize(event));
      useSongStore.getState().editByKey(step, 'Move a claim', `${track.id}/claim/${index}/${part}`);
    } else if (event.key === 'Delete' || event.key === 'Backspace')
      useSongStore.getState().edit(removeClaim(track, index), 'Give a claim up');
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <>
      <Foot
        data-testid={`claim-ground-${track.id}`}
        data-hint="Drag here to claim a range: where this track is meant to be heard"
        onPointerDown={(event) => {
          useSelection.getState().chooseStrip(track.id);
          const left = event.currentTarget.getBoundingClientRect().left;
          const from = event.clientX - left;
          dragEdit(event, 'Claim a range', ({ dx }) =>
            Math.abs(dx) < LEAST_DRAG ? null : addClaim(track, axis.hz(from), axis.hz(from + dx)),
          );
        }}
      />
      {track.claims.map((claim, index) => {
        const [from, to] = [axis.x(claim.lowHz), axis.x(claim.highHz)].map((x) => Math.min(axis.width, Math.max(0, x)));
        const range = `${writeFrequency(claim.lowHz)} to ${writeFrequency(claim.highHz)}`;
        const handle = (edge: Edge, x: number, hz: number) => (
          <Grip
            role="slider"
            tabIndex={0}
            aria-label={`${track.name}, claim ${index + 1}, ${EDGES[edge]}`}
            aria-valuemin={FREQUENCY_RANGE_HZ.min}
            aria-valuemax={FREQUENCY_RANGE_HZ.max}
            aria-valuenow={hz}
            aria-valuetext={range}
            data-hint={`Claims ${range} · drag an end or the middle · ← → this end, ↑ ↓ all of it, Delete gives it up`}
            style={{ left: x - GRIP / 2 }}
            onPointerDown={grab(edge, index)}
            onKeyDown={steer(edge, index)}
          />
        );
        return (
          // A track has few claims, and they keep their order.
          <div key={index}>
            <Bracket className="sign" style={{ left: from, width: Math.max(3, to - from) }} />
            <Middle
              data-hint={`Claims ${range} · drag it to another place`}
              style={{ left: from, width: Math.max(3, to - from) }}
              onPointerDown={grab('whole', index)}
            />
            {handle('low', from, claim.lowHz)}
            {handle('high', to, claim.highHz)}
          </div>
        );
      })}
    </>
  );
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
