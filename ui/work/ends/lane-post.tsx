'use client';
import { useRef } from 'react';
import styled from 'styled-components';
import { legalOrder } from '@/core/filters';
import { bandSummary } from '@/core/formats';
import { bandsOf, FREQUENCY_RANGE_HZ, newId, type Band, type Strip } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ, type FrequencyScale } from '../../kit/axis/scale';
import { holdPointer } from '../../kit/gestures/drag';
import { arrowDirection, rangeKeyHz, stepHz, stepOrder, stepSize } from '../../kit/gestures/steps';
import { liftOf, placeSign, postPaths, Sign } from '../../kit/signs/post';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useDesk, type Desk } from '../../window/desk/desk';
import { changeBandByKey, removeBand, setBand } from '../../window/song/band-edits';
import { dragEdit } from '../../window/song/edit-drag';
import { settledSong } from '../../window/song/live-song';
import { stripName, useSelection } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { useLiveStrip } from '../../window/song/use-live-strip';
import { dragInEnd, dragPost, type PassType } from './end-edits';
import { isDeleteKey } from '../../kit/gestures/plain-key';

const BARB = 9;
/** Half the width of what can be taken hold of. */
const REACH = 12;
const names: Record<PassType, string> = { 'high-pass': 'high-pass (cuts lows)', 'low-pass': 'low-pass (cuts highs)' };

interface EndProps {
  strip: Strip;
  height: number;
  /** True where Tab reaches it: in the lane that is chosen. */
  isReached: boolean;
}

/** The post of a pass filter in its lane. */
export function LanePost({ strip, band, height, isReached }: EndProps & { band: Band }) {
  const desk = useDesk();
  const axis = useAxis();
  const grip = useRef<HTMLDivElement>(null);
  const type = band.type as PassType;
  useLiveStrip(strip.id, (now) => {
    const live = bandsOf(now).find(({ id }) => id === band.id);
    if (live && grip.current) placePost(grip.current, live, axis, height);
  });
  const choose = () => {
    useSelection.of(desk).chooseStrip(strip.id);
    useSelection.of(desk).chooseBand(band.id);
  };
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey) return;
    const arrow = arrowDirection(event);
    const hz = rangeKeyHz(event, band.frequencyHz);
    const change = (changes: Partial<Band>) => changeBandByKey(desk, strip.id, band.id, changes, `Move the ${type}`);
    if (arrow?.axis === 'x') change({ frequencyHz: stepHz(band.frequencyHz, arrow.direction, stepSize(event)) });
    else if (arrow) change({ order: stepOrder(band, arrow.direction) });
    else if (hz !== null) change({ frequencyHz: hz });
    else if (isDeleteKey(event)) removeBand(desk, strip.id, band.id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Grip
      ref={grip}
      role="slider"
      tabIndex={isReached ? 0 : -1}
      data-band={band.id}
      aria-label={`${stripName(strip)}, ${names[type]}`}
      aria-valuemin={FREQUENCY_RANGE_HZ.min}
      aria-valuemax={FREQUENCY_RANGE_HZ.max}
      aria-valuenow={band.frequencyHz}
      aria-valuetext={bandSummary(band)}
      data-hint="Drag sideways for the corner, up and down for the slope · ← → and ↑ ↓ do the same · Alt-drag between the posts moves both"
      onPointerDown={(event) => {
        choose();
        if (event.altKey) return;
        holdPointer(event);
        dragEdit(desk, event, `Move the ${type}`, ({ dx, dy }) =>
          setBand(settledSong(desk), strip.id, band.id, dragPost(band, dx, dy, axis), band),
        );
      }}
      onFocus={(event) => focusCrosshair(desk, event.currentTarget, band.frequencyHz)}
      onBlur={() => showCrosshair(desk, null)}
      onKeyDown={onKeyDown}
    >
      <PostSign height={height} />
    </Grip>
  );
}

function PostSign({ height }: { height: number }) {
  return (
    <svg width={REACH} height={height} overflow="visible" aria-hidden>
      <g className="sign">
        <Sign />
      </g>
    </svg>
  );
}

function placePost(grip: HTMLElement, band: Band, axis: FrequencyScale, height: number): void {
  const x = Math.min(axis.width, Math.max(0, axis.x(band.frequencyHz)));
  const order = legalOrder(band.family, band.order);
  // Not moved by a transform: each would be a layer of its own to the browser, two in every lane.
  grip.style.left = `${x - REACH}px`;
  placeSign(
    grip,
    postPaths({ type: band.type, order, height: height - 7, barb: BARB, lift: Math.min(4, liftOf(band)) }),
  );
}

function focusCrosshair(desk: Desk, element: HTMLElement, hz: number): void {
  if (element.matches(':focus-visible')) showCrosshair(desk, { hz, clientY: element.getBoundingClientRect().top });
}

/** Where a post can be dragged in: the edge of a lane that is open on this side. */
export function OpenEnd({ strip, type, height, isReached }: EndProps & { type: PassType }) {
  const desk = useDesk();
  const axis = useAxis();
  const grip = useRef<HTMLDivElement>(null);
  const inward = type === 'high-pass' ? 1 : -1;
  const place = (x: number) => {
    if (grip.current) grip.current.style.left = `${x - REACH}px`;
  };
  useLiveStrip(strip.id, () => {
    place(type === 'high-pass' ? REACH - 4 : axis.width - REACH + 4);
    if (grip.current) placeSign(grip.current, postPaths({ type, order: 3, height: height - 7, barb: BARB }));
  });
  return (
    <Grip
      ref={grip}
      role="slider"
      tabIndex={isReached ? 0 : -1}
      $ghost
      aria-label={`${stripName(strip)}, no ${names[type]} yet`}
      aria-valuemin={FREQUENCY_RANGE_HZ.min}
      aria-valuemax={FREQUENCY_RANGE_HZ.max}
      aria-valuenow={type === 'high-pass' ? AXIS_LOW_HZ : AXIS_HIGH_HZ}
      aria-valuetext="open"
      data-hint={`Drag inward for a ${names[type]} · ${type === 'high-pass' ? '→' : '←'} on the keyboard`}
      onPointerDown={(event) => {
        useSelection.of(desk).chooseStrip(strip.id);
        if (event.altKey) return;
        const newBandId = newId(10);
        dragEdit(desk, event, `New ${type}`, ({ dx }) =>
          dx * inward > 0 ? dragInEnd(settledSong(desk), strip, type, dx, axis, newBandId) : null,
        );
      }}
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || arrowDirection(event)?.axis !== 'x') return;
        event.preventDefault();
        event.stopPropagation();
        if (arrowDirection(event)!.direction !== inward) return;
        const newBandId = newId(10);
        const { chooseStrip, chooseBand } = useSelection.of(desk);
        chooseStrip(strip.id);
        const edit = dragInEnd(settledSong(desk), strip, type, inward * 24, axis, newBandId);
        // The post that comes in takes the keyboard over from the edge that it came from.
        if (useSongStore.of(desk).edit(edit, `New ${type}`)) chooseBand(newBandId, { isFocused: true });
      }}
    >
      <PostSign height={height} />
    </Grip>
  );
}

const Grip = styled.div<{ $ghost?: boolean }>`
  position: absolute;
  top: 0;
  bottom: 0;
  left: 0;
  z-index: 2;
  width: ${2 * REACH}px;
  color: var(--ink);
  cursor: ew-resize;
  touch-action: none;
  outline: none;
  svg {
    position: absolute;
    top: 4px;
    left: ${REACH}px;
  }
  path {
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
  ${({ $ghost }) => $ghost && '&:not(:hover, :focus-visible) svg { display: none; } svg { opacity: 0.6; }'}
`;
