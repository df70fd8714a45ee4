'use client';
import styled from 'styled-components';
import { writeFrequency } from '@/core/formats';
import { FREQUENCY_RANGE_HZ, type Track } from '@/core/song';
import { useAxis } from '../axis';
import { arrowDirection, dragEdit, stepSize } from '../gestures';
import { useSelection, useSongStore } from '../song';
import { addClaim, dragClaim, removeClaim, stepClaim, type ClaimPart } from './claim-edits';

const PARTS: Record<ClaimPart, string> = { low: 'lower edge', whole: 'place', high: 'upper edge' };

/** A new claim must be drawn at least this far, pixels: less is a click. */
const LEAST_DRAG = 4;

/** The claims of a track under its ridge: brackets whose edges and middle can be dragged; where none is, one is drawn. */
export function LaneClaims({ track }: { track: Track }) {
  const axis = useAxis();
  const edit = (part: ClaimPart, index: number) => ({
    onPointerDown: (event: React.PointerEvent) => {
      useSelection.getState().chooseStrip(track.id);
      dragEdit(event, 'Move a claim', ({ dx }) => dragClaim(track, index, part, dx, axis));
    },
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey) return;
      const arrow = arrowDirection(event);
      if (arrow?.axis === 'x')
        useSongStore
          .getState()
          .editByKey(
            stepClaim(track, index, part, arrow.direction, stepSize(event)),
            'Move a claim',
            `${track.id}/claim/${index}/${part}`,
          );
      else if (event.key === 'Delete' || event.key === 'Backspace')
        useSongStore.getState().edit(removeClaim(track, index), 'Give a claim up');
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  });
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
        const handle = (part: ClaimPart, left: number, width: number, hz: number) => (
          <Grip
            role="slider"
            tabIndex={0}
            aria-label={`${track.name}, claim ${index + 1}, ${PARTS[part]}`}
            aria-valuemin={FREQUENCY_RANGE_HZ.min}
            aria-valuemax={FREQUENCY_RANGE_HZ.max}
            aria-valuenow={hz}
            aria-valuetext={range}
            data-hint={`Claims ${range} · drag its ends or its middle · ← → and Delete on the keyboard`}
            data-part={part}
            style={{ left, width }}
            {...edit(part, index)}
          />
        );
        return (
          // A track has few claims, and they keep their order.
          <div key={index}>
            <Bracket className="sign" style={{ left: from, width: Math.max(3, to - from) }} />
            {handle('whole', from + 5, Math.max(4, to - from - 10), Math.sqrt(claim.lowHz * claim.highHz))}
            {handle('low', from - 6, 12, claim.lowHz)}
            {handle('high', to - 6, 12, claim.highHz)}
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
const Grip = styled.div`
  position: absolute;
  bottom: -1px;
  height: 11px;
  cursor: grab;
  touch-action: none;
  outline: none;
  &[data-part='low'],
  &[data-part='high'] {
    cursor: ew-resize;
  }
  &:focus-visible {
    outline: 2px solid var(--claim);
    border-radius: 2px;
  }
`;
