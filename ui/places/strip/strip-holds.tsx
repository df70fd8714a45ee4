'use client';
import styled from 'styled-components';
import type { Loop, Passage, SongPart } from '@/core/song';
import type { Span } from '../../window/view/song-view';
import { LoopBracket } from './loop-bracket';
import { PartName } from './part-name';
import { PassageSpans } from './passage-spans';
import type { StripView } from './strip-view';

interface StripHoldsProps {
  view: StripView;
  /** What the strip showed when it was last at rest. */
  shown: Span;
  isMoving: boolean;
  /** Of the strip, CSS pixels. */
  width: number;
  parts: readonly SongPart[];
  loop: Loop | null;
  passages: readonly Passage[];
  /** See `rowsOf`. */
  rows: ReadonlyMap<string, number>;
  lengthSeconds: number;
}

/**
 * What parts, loop and passages are taken hold of by. They are drawn on the strip's canvas, which follows the wheel at once; what one takes hold of
 * follows when it rests.
 */
export function StripHolds({
  view,
  width,
  shown,
  isMoving,
  parts,
  loop,
  passages,
  rows,
  lengthSeconds,
}: StripHoldsProps) {
  const perSecond = width / (shown.to - shown.from);
  const percent = (seconds: number) => `${(100 * seconds) / lengthSeconds}%`;
  return (
    <Layer
      data-moving={isMoving || undefined}
      style={{ left: -shown.from * perSecond, width: lengthSeconds * perSecond }}
    >
      {parts.map(({ name, startSeconds }, i) => (
        <Part
          key={i}
          style={{
            left: percent(startSeconds),
            width: percent((parts[i + 1]?.startSeconds ?? lengthSeconds) - startSeconds),
          }}
        >
          <PartName
            {...{ index: i, name, lengthSeconds, view }}
            isInSight={startSeconds < shown.to && (parts[i + 1]?.startSeconds ?? lengthSeconds) > shown.from}
            offset={Math.max(0, (shown.from - startSeconds) * perSecond)}
          />
        </Part>
      ))}
      {loop && <LoopBracket {...{ loop, lengthSeconds, view }} />}
      <PassageSpans {...{ passages, rows, shown, lengthSeconds, view }} />
    </Layer>
  );
}

/** As long as the song: what stands in it has its share of that. */
const Layer = styled.div`
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
  /* What moves away from under the pointer is not taken hold of, and what has the focus stands elsewhere. */
  &[data-moving] * {
    pointer-events: none;
    outline-color: transparent;
  }
`;
const Part = styled.div`
  position: absolute;
  top: 0;
  bottom: 5px;
  /* Its name ends where the next part begins. */
  overflow: clip;
  overflow-clip-margin: 2px;
  padding-left: 1px;
`;
