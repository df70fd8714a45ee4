'use client';
import { useCallback, useRef, useState } from 'react';
import { useDesk } from '../desk/desk';
import { liveRevision } from './live';
import { frameStrain, useFrames } from '../../kit/frames/use-frames';

/** Fields take turns, so that no frame has to draw them all: each is drawn 20 times a second, or less where frames come late. */
const TURNS = 3;
let fields = 0;
const nextTurn = () => fields++ % TURNS;

/**
 * Draws when there are new live levels, every third frame at most, and once more when they end.
 * @param hasLevels false for what has no live levels
 * @param slowness draws so many times less often: for what is costly to draw
 */
export function useLiveRedraw(hasLevels: boolean, redraw: () => void, slowness = 1): void {
  const desk = useDesk();
  const [turn] = useState(nextTurn);
  const frame = useRef(0);
  const drawn = useRef(0);
  useFrames(
    useCallback(() => {
      frame.current++;
      const every = TURNS * slowness * frameStrain();
      if (!hasLevels || drawn.current === liveRevision(desk) || frame.current % every !== turn) return;
      drawn.current = liveRevision(desk);
      redraw();
    }, [slowness, hasLevels, desk, turn, redraw]),
  );
}
