'use client';
import styled from 'styled-components';
import type { Landmark } from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import type { FrequencyScale } from '../../kit/axis/scale';
import { SERIF } from '../../kit/theme/tokens';
import { useChosenLandmarks, useLandmarks } from './landmarks-store';

/** Height of the row under the ruler. */
export const LANDMARK_ROW = 16;
/** About the width of a letter, pixels. */
const LETTER = 5.4;

interface PlacedName {
  id: string;
  what: string;
  from: number;
  to: number;
  middle: number;
  hasRoom: boolean;
}

/** A name stands at the middle of its bracket; one that would run into the name before it is left to the list. */
export function placeNames(
  landmarks: readonly Pick<Landmark, 'id' | 'what' | 'lowHz' | 'highHz'>[],
  axis: Pick<FrequencyScale, 'x' | 'width'>,
): PlacedName[] {
  const x = (hz: number) => Math.min(axis.width, Math.max(0, axis.x(hz)));
  const placed: PlacedName[] = [];
  let end = -Infinity;
  for (const { id, what, lowHz, highHz } of landmarks) {
    const [from, to] = [x(lowHz), x(highHz)];
    const half = (what.length * LETTER) / 2;
    const middle = Math.min(axis.width - half - 2, Math.max(half + 2, (from + to) / 2));
    const hasRoom = middle - half >= end + 6;
    if (hasRoom) end = middle + half;
    placed.push({ id, what, from, to, middle, hasRoom });
  }
  return placed;
}

/** The landmarks of the chosen track as brackets under the ruler; names where there is room for them. */
export function LandmarkRow() {
  const axis = useAxis();
  const isShown = useLandmarks((store) => store.isShown);
  const landmarks = useChosenLandmarks();
  if (!isShown || axis.width === 0) return null;
  const placed = placeNames(landmarks, axis);
  return (
    <g aria-hidden transform="translate(0 40)">
      {placed.map(({ id, what, from, to, middle, hasRoom }) => (
        <g key={id}>
          <Bracket d={`M${from} -1V2H${Math.max(from + 3, to)}V-1`} />
          {hasRoom && (
            <Name x={middle} y={13}>
              {what}
            </Name>
          )}
        </g>
      ))}
    </g>
  );
}

const Bracket = styled.path`
  fill: none;
  stroke: var(--claim);
`;
const Name = styled.text`
  fill: var(--claim);
  font: italic 400 11.5px ${SERIF};
  text-anchor: middle;
`;
