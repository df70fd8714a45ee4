'use client';
import { useEffect, useLayoutEffect, useRef } from 'react';
import { findStrip, type Strip } from '@/core/song';
import { useDesk } from '../desk/desk';
import { liveSong, songOf } from './live-song';

/**
 * Places what stands for a strip, outside React: after every render, and whenever the strip changes in the middle of a drag.
 * @param place puts things where the strip says
 */
export function useLiveStrip(stripId: string, place: (strip: Strip) => void): void {
  const desk = useDesk();
  const latest = useRef(place);
  useLayoutEffect(() => {
    latest.current = place;
    const strip = findStrip(songOf(desk), stripId);
    if (strip) place(strip);
  });
  useEffect(
    () =>
      liveSong(desk).follow((now, before) => {
        const strip = findStrip(now, stripId);
        if (strip && strip !== findStrip(before, stripId)) latest.current(strip);
      }),
    [desk, stripId],
  );
}
