'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { writeFrequency } from '@/core/formats';
import { findStrip, FREQUENCY_RANGE_HZ } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { arrowDirection, stepSize } from '../../kit/gestures/steps';
import { followDrag } from '../../kit/gestures/drag';
import { useListening } from '../../window/sound/listening';
import { stripName } from '../../window/song/selection';
import { endEarshot, moveEdge, setRange, stepEdge, useEarshot } from './earshot-store';
import { useSong } from '../../window/song/song-store';

/** What is heard alone, as a clear window through ruler, lanes and bench; its edges are dragged. */
export function EarshotLayer() {
  const desk = useDesk();
  const axis = useAxis();
  const isArmed = useEarshot((store) => store.isArmed);
  const earshot = useListening((listening) => listening.earshot);
  const isMatched = useListening((listening) => listening.isEarshotMatched);

  // While E is held a press on any field begins a sweep there, whatever lies under the pointer.
  useEffect(() => {
    if (!isArmed) return;
    const onDown = (event: PointerEvent) => {
      const field = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-earshot]') : null;
      if (!field || event.button !== 0) return;
      event.preventDefault();
      event.stopPropagation();
      const { left } = field.getBoundingClientRect();
      const hzAt = (clientX: number) => axis.hz(Math.min(axis.width, Math.max(0, clientX - left)));
      const stripId = field.dataset.earshot!;
      const startHz = hzAt(event.clientX);
      setRange(desk, stripId, startHz, startHz);
      followDrag(event, {
        onMove: ({ clientX }) => setRange(desk, stripId, startHz, hzAt(clientX)),
        onEnd: () => undefined,
        onCancel: () => endEarshot(desk),
      });
    };
    window.addEventListener('pointerdown', onDown, true);
    return () => window.removeEventListener('pointerdown', onDown, true);
  }, [isArmed, axis, desk]);

  const strip = useSong((song) => earshot && findStrip(song, earshot.stripId));
  if (!earshot) return null;
  const x = (hz: number) => Math.min(axis.width, Math.max(0, axis.x(hz)));
  const [low, high] = [x(earshot.lowHz), x(earshot.highHz)];
  const whose = strip && 'outputId' in strip ? stripName(strip) : 'the mix';
  const range = `${writeFrequency(earshot.lowHz)} to ${writeFrequency(earshot.highHz)}`;
  return (
    <Layer data-testid="earshot">
      <Shut style={{ left: 0, width: low }} />
      <Shut style={{ left: high, right: 0 }} />
      {(['low', 'high'] as const).map((edge) => (
        <Edge
          key={edge}
          role="slider"
          tabIndex={0}
          aria-label={`Earshot, ${edge === 'low' ? 'lower' : 'upper'} edge`}
          aria-valuemin={FREQUENCY_RANGE_HZ.min}
          aria-valuemax={FREQUENCY_RANGE_HZ.max}
          aria-valuenow={edge === 'low' ? earshot.lowHz : earshot.highHz}
          aria-valuetext={writeFrequency(edge === 'low' ? earshot.lowHz : earshot.highHz)}
          data-hint="Edge of what is heard: drag it, or ← →"
          style={{ left: (edge === 'low' ? low : high) - 6 }}
          onPointerDown={(event) => {
            event.preventDefault();
            event.stopPropagation();
            const startX = edge === 'low' ? low : high;
            followDrag(event.nativeEvent, {
              onMove: ({ dx }) => moveEdge(desk, edge, axis.hz(Math.min(axis.width, Math.max(0, startX + dx)))),
              onEnd: () => undefined,
              onCancel: () => undefined,
            });
          }}
          onKeyDown={(event) => {
            const arrow = arrowDirection(event);
            if (!arrow) return;
            stepEdge(desk, edge, arrow.direction, stepSize(event));
            event.preventDefault();
            event.stopPropagation();
          }}
        />
      ))}
      <Label style={{ left: Math.min(axis.width - 250, Math.max(4, low + 8)) }}>
        Only {range} of {whose}
        {isMatched ? ', levels matched' : ''}
      </Label>
    </Layer>
  );
}

const Layer = styled.div`
  grid-column: 2;
  grid-row: 1 / -1;
  position: relative;
  z-index: 4;
  overflow: hidden;
  pointer-events: none;
`;
const Shut = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  background: color-mix(in srgb, var(--paper) 72%, transparent);
`;
const Edge = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  width: 12px;
  border-left: 6px solid transparent;
  background: linear-gradient(var(--claim), var(--claim)) left / 2px 100% no-repeat content-box;
  cursor: ew-resize;
  pointer-events: auto;
  touch-action: none;
  outline: none;
  &:focus-visible {
    background-size: 4px 100%;
  }
`;
const Label = styled.div`
  position: absolute;
  top: 42px;
  padding: 1px 7px;
  border: 1px solid var(--claim);
  border-radius: 2px;
  background: var(--paper);
  color: var(--claim);
  font-weight: 600;
  white-space: nowrap;
`;
