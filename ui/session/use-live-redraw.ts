'use client';
import { useCallback, useRef } from 'react';
import type { Strip } from '@/core/song';
import { useSession } from './session-store';
import { useFrames } from './use-frames';

/** Draws once a frame while the strip has live levels, and once more when they end. */
export function useLiveRedraw(strip: Strip, redraw: () => void): void {
  const wasLive = useRef(false);
  const hasLevels = 'audioId' in strip;
  useFrames(
    useCallback(() => {
      const isLive = hasLevels && useSession.getState().isPlaying;
      if (isLive || wasLive.current) redraw();
      wasLive.current = isLive;
    }, [redraw, hasLevels]),
  );
}
