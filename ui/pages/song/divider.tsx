'use client';
import styled from 'styled-components';
import { arrowDirection } from '../../kit/gestures/steps';
import { followDrag } from '../../kit/gestures/drag';
import { BENCH_SHARE, useLayout } from './layout-store';

const KEY_STEP = 0.05;

/** Between Register and bench: dragged, stepped by arrow keys, set back by a double click. */
export function Divider({ bodyHeight }: { bodyHeight: number }) {
  const share = useLayout((layout) => layout.benchShare);
  const setShare = useLayout((layout) => layout.setBenchShare);
  return (
    <Bar
      role="separator"
      tabIndex={0}
      aria-label="Height of the bench"
      aria-orientation="horizontal"
      aria-valuemin={BENCH_SHARE.min * 100}
      aria-valuemax={BENCH_SHARE.max * 100}
      aria-valuenow={Math.round(share * 100)}
      data-hint="Drag to give the bench or the lanes more room · double-click sets it back"
      onDoubleClick={() => setShare(BENCH_SHARE.start)}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        followDrag(event.nativeEvent, {
          onMove: ({ dy }) => setShare(share - dy / Math.max(1, bodyHeight)),
          onEnd: () => undefined,
          onCancel: () => setShare(share),
        });
      }}
      onKeyDown={(event) => {
        const arrow = arrowDirection(event);
        if (arrow?.axis !== 'y') return;
        event.preventDefault();
        event.stopPropagation();
        setShare(share + arrow.direction * KEY_STEP);
      }}
    />
  );
}

const Bar = styled.div`
  grid-column: 1 / -1;
  grid-row: 3;
  position: relative;
  z-index: 6;
  height: 2px;
  background: var(--ink);
  cursor: ns-resize;
  touch-action: none;
  &::after {
    content: '';
    position: absolute;
    inset: -4px 0;
  }
`;
