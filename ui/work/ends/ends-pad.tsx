'use client';
import styled from 'styled-components';
import { writeFrequency } from '@/core/formats';
import { FREQUENCY_RANGE_HZ, newId } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { frequencyScale } from '../../kit/axis/scale';
import { FigureRow } from '../../kit/controls/figure-row';
import { arrowDirection, stepSize } from '../../kit/gestures/steps';
import { dragEdit } from '../../window/song/edit-drag';
import { dragBothEnds, endsOf, stepBothEnds } from './end-edits';
import { useSongStore } from '../../window/song/song-store';
import { stripName, useChosenStrip } from '../../window/song/selection';
import { songOf, settledSong } from '../../window/song/live-song';

const WIDTH = 161;
const HEIGHT = 26;
const axis = frequencyScale(WIDTH);
const newBandIds = () => ({ 'high-pass': newId(10), 'low-pass': newId(10) });

/** Both ends of a track as one control of two axes: sideways moves the open range, up opens it, down closes it; by pointer or by key. */
export function EndsPad() {
  const desk = useDesk();
  const strip = useChosenStrip();
  const { lowHz, highHz } = endsOf(strip);
  const open = `${writeFrequency(lowHz)} to ${writeFrequency(highHz)}`;
  const clamped = (hz: number) => Math.min(WIDTH, Math.max(0, axis.x(hz)));
  return (
    <FigureRow>
      <span>Ends</span>
      <Pad
        role="slider"
        tabIndex={0}
        aria-label={`Both ends of ${stripName(strip)}`}
        aria-valuemin={FREQUENCY_RANGE_HZ.min}
        aria-valuemax={FREQUENCY_RANGE_HZ.max}
        aria-valuenow={Math.round(Math.sqrt(lowHz * highHz))}
        aria-valuetext={`open from ${open}`}
        data-hint="Both ends at once: sideways or ← → moves them, up opens, down closes · Alt-drag in the lane does the same"
        onPointerDown={(event) => {
          const ids = newBandIds();
          dragEdit(desk, event, 'Move both ends', ({ dx, dy }) =>
            dragBothEnds(settledSong(desk), strip, dx, dy, axis, ids),
          );
        }}
        onKeyDown={(event) => {
          const arrow = arrowDirection(event);
          if (!arrow || event.ctrlKey || event.metaKey) return;
          event.preventDefault();
          event.stopPropagation();
          const edit = stepBothEnds(songOf(desk), strip, arrow, stepSize(event), axis, newBandIds());
          useSongStore.of(desk).editByKey(edit, 'Move both ends', `${strip.id}/ends`);
        }}
      >
        <svg width={WIDTH} height={HEIGHT} aria-hidden>
          <rect className="shut" width={WIDTH} height={HEIGHT} />
          <rect className="open" x={clamped(lowHz)} width={clamped(highHz) - clamped(lowHz)} height={HEIGHT} />
          <text x={WIDTH / 2} y={17}>
            {open}
          </text>
        </svg>
      </Pad>
    </FigureRow>
  );
}

const Pad = styled.div`
  width: ${WIDTH}px;
  height: ${HEIGHT}px;
  border-radius: 3px;
  overflow: hidden;
  cursor: move;
  touch-action: none;
  .shut {
    fill: var(--grid);
  }
  .open {
    fill: var(--field);
    stroke: var(--rule);
  }
  text {
    fill: var(--ink);
    font-size: 13px;
    font-weight: 600;
    text-anchor: middle;
    pointer-events: none;
    user-select: none;
  }
  &:focus-visible {
    outline: 2px solid var(--claim);
    outline-offset: 1px;
  }
`;
