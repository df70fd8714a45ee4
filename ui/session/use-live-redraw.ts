'use client';
import { useCallback, useRef, useState } from 'react';
import type { Strip } from '@/core/song';
import { liveRevision } from './live';
import { useFrames } from './use-frames';

/** Fields take turns, so that no frame has to draw them all: each is drawn 20 times a second. */
const TURNS = 3;
let fields = 0;

/** Draws when there are new live levels of the strip, every third frame at most, and once more when they end. */
export function useLiveRedraw(strip: Strip, redraw: () => void): void {
  const [turn] = useState(() => fields++ % TURNS);
  const frame = useRef(0);
  const drawn = useRef(0);
  const hasLevels = 'audioId' in strip;
  useFrames(
    useCallback(() => {
      frame.current++;
      if (!hasLevels || drawn.current === liveRevision() || frame.current % TURNS !== turn) return;
      drawn.current = liveRevision();
      redraw();
    }, [redraw, hasLevels, turn]),
  );
}
