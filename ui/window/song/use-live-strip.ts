'use client';
import { useEffect, useLayoutEffect, useRef } from 'react';
import { findStrip, type Strip } from '@/core/song';
import { drawInFrame, forgetInFrame } from '../../kit/frames/pictures';
import { useDesk } from '../desk/desk';
import { changedStrips } from './changed-strips';
import { liveSong, songOf } from './live-song';

/**
 * Places what stands for a strip, outside React: after every render, and in the next frame where the strip changes in the middle of a drag.
 * @param place puts things where the strip says; after a render its elements may be others
 */
export function useLiveStrip(stripId: string, place: (strip: Strip, hasRendered: boolean) => void): void {
  const desk = useDesk();
  const latest = useRef(place);
  useLayoutEffect(() => {
    latest.current = place;
    const strip = findStrip(songOf(desk), stripId);
    if (strip) place(strip, true);
  });
  useEffect(() => {
    const placeNow = () => {
      const strip = findStrip(songOf(desk), stripId);
      if (strip) latest.current(strip, false);
    };
    const end = liveSong(desk).follow((now, before) => {
      if (changedStrips(now, before).has(stripId)) drawInFrame(placeNow);
    });
    return () => {
      end();
      forgetInFrame(placeNow);
    };
  }, [desk, stripId]);
}
