'use client';
import { useMove } from 'react-aria';
import styled from 'styled-components';
import { BENCH_SHARE, useLayout } from './layout-store';

const KEY_STEP = 0.05;

/** Between Register and bench: dragged, stepped by arrow keys, set back by a double click. */
export function Divider({ bodyHeight }: { bodyHeight: number }) {
  const share = useLayout((layout) => layout.benchShare);
  const setShare = useLayout((layout) => layout.setBenchShare);
  const { moveProps } = useMove({
    onMove: ({ deltaX, deltaY, pointerType }) => {
      if (pointerType === 'keyboard') setShare(share + Math.sign(deltaX - deltaY) * KEY_STEP);
      else setShare(useLayout.getState().benchShare - deltaY / Math.max(1, bodyHeight));
    },
  });
  return (
    <Bar
      {...moveProps}
      role="separator"
      tabIndex={0}
      aria-label="Height of the bench"
      aria-orientation="horizontal"
      aria-valuemin={BENCH_SHARE.min * 100}
      aria-valuemax={BENCH_SHARE.max * 100}
      aria-valuenow={Math.round(share * 100)}
      data-hint="Drag to give the bench or the lanes more room · double-click sets it back"
      onDoubleClick={() => setShare(BENCH_SHARE.start)}
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
