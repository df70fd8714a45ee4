'use client';
import styled from 'styled-components';
import { legalOrder } from '@/core/filters';
import { bandSummary } from '@/core/formats';
import { FREQUENCY_RANGE_HZ, newId, type Band, type Strip } from '@/core/song';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ, useAxis } from '../axis';
import { showCrosshair } from '../crosshair';
import { arrowDirection, dragEdit, stepHz, stepOrder, stepSize } from '../gestures';
import { liftOf, Post } from '../signs';
import { changeBandByKey, currentSong, removeBand, setBand, stripName, useSelection, useSongStore } from '../song';
import { dragInEnd, dragPost, type PassType } from './end-edits';

const BARB = 9;
const names: Record<PassType, string> = { 'high-pass': 'high-pass (cuts lows)', 'low-pass': 'low-pass (cuts highs)' };

function focusCrosshair(element: HTMLElement, hz: number): void {
  if (element.matches(':focus-visible')) showCrosshair({ hz, clientY: element.getBoundingClientRect().top });
}

/** The post of a pass filter in its lane. */
export function LanePost({ strip, band, height }: { strip: Strip; band: Band; height: number }) {
  const axis = useAxis();
  const type = band.type as PassType;
  const choose = () => {
    useSelection.getState().chooseStrip(strip.id);
    useSelection.getState().chooseBand(band.id);
  };
  return (
    <Grip
      role="slider"
      tabIndex={0}
      data-band={band.id}
      aria-label={`${stripName(strip)}, ${names[type]}`}
      aria-valuemin={FREQUENCY_RANGE_HZ.min}
      aria-valuemax={FREQUENCY_RANGE_HZ.max}
      aria-valuenow={band.frequencyHz}
      aria-valuetext={bandSummary(band)}
      data-hint="Drag sideways for the corner, up and down for the slope · ← → and ↑ ↓ do the same · Alt-drag between the posts moves both"
      style={{ transform: `translateX(${Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz))) - 10}px)` }}
      onPointerDown={(event) => {
        choose();
        if (event.altKey) return;
        dragEdit(event, `Move the ${type}`, ({ dx, dy }) =>
          setBand(currentSong(), strip.id, band.id, dragPost(band, dx, dy, axis)),
        );
      }}
      onFocus={(event) => focusCrosshair(event.currentTarget, band.frequencyHz)}
      onBlur={() => showCrosshair(null)}
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey) return;
        const arrow = arrowDirection(event);
        if (arrow) {
          const changes =
            arrow.axis === 'x'
              ? { frequencyHz: stepHz(band.frequencyHz, arrow.direction, stepSize(event)) }
              : { order: stepOrder(band, arrow.direction) };
          changeBandByKey(strip.id, band.id, changes, `Move the ${type}`);
        } else if (event.key === 'Delete' || event.key === 'Backspace') removeBand(strip.id, band.id);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      <svg width={20} height={height} overflow="visible" aria-hidden>
        <g className="sign" transform="translate(10 4)">
          <Post
            type={type}
            order={legalOrder(band.family, band.order)}
            height={height - 7}
            barb={BARB}
            lift={Math.min(4, liftOf(band))}
          />
        </g>
      </svg>
    </Grip>
  );
}

/** Where a post can be dragged in: the edge of a lane that is open on this side. */
export function OpenEnd({ strip, type, height }: { strip: Strip; type: PassType; height: number }) {
  const axis = useAxis();
  const inward = type === 'high-pass' ? 1 : -1;
  return (
    <Grip
      role="slider"
      tabIndex={0}
      $ghost
      aria-label={`${stripName(strip)}, no ${names[type]} yet`}
      aria-valuemin={FREQUENCY_RANGE_HZ.min}
      aria-valuemax={FREQUENCY_RANGE_HZ.max}
      aria-valuenow={type === 'high-pass' ? AXIS_LOW_HZ : AXIS_HIGH_HZ}
      aria-valuetext="open"
      data-hint={`Drag inward for a ${names[type]} · ${type === 'high-pass' ? '→' : '←'} on the keyboard`}
      style={{ transform: `translateX(${type === 'high-pass' ? -2 : axis.width - 18}px)` }}
      onPointerDown={(event) => {
        useSelection.getState().chooseStrip(strip.id);
        if (event.altKey) return;
        const newBandId = newId(10);
        dragEdit(event, `New ${type}`, ({ dx }) =>
          dx * inward > 0 ? dragInEnd(currentSettled(), strip, type, dx, axis, newBandId) : null,
        );
      }}
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || arrowDirection(event)?.axis !== 'x') return;
        event.preventDefault();
        event.stopPropagation();
        if (arrowDirection(event)!.direction !== inward) return;
        useSelection.getState().chooseStrip(strip.id);
        useSongStore
          .getState()
          .edit(dragInEnd(currentSettled(), strip, type, inward * 24, axis, newId(10)), `New ${type}`);
      }}
    >
      <svg width={20} height={height} overflow="visible" aria-hidden>
        <g className="sign" transform="translate(10 4)">
          <Post type={type} order={3} height={height - 7} barb={BARB} />
        </g>
      </svg>
    </Grip>
  );
}

const currentSettled = () => useSongStore.getState().state.settled;

const Grip = styled.div<{ $ghost?: boolean }>`
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  width: 20px;
  color: var(--ink);
  cursor: ew-resize;
  touch-action: none;
  outline: none;
  line {
    stroke: currentColor;
    stroke-width: 1.6;
  }
  &:hover {
    color: var(--accent);
  }
  &:focus-visible {
    color: var(--accent);
    outline: 2px solid var(--claim);
    outline-offset: -2px;
    border-radius: 3px;
  }
  ${({ $ghost }) => $ghost && 'opacity: 0; &:hover, &:focus-visible { opacity: 0.6; }'}
`;
