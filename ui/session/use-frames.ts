'use client';
import { useEffect } from 'react';

type Frame = (milliseconds: number) => void;

const listeners = new Set<Frame>();
let running = 0;

function tick(milliseconds: number): void {
  running = requestAnimationFrame(tick);
  for (const listener of listeners) listener(milliseconds);
}

/** Calls back once a frame, all callers in one turn of the browser's clock. */
export function useFrames(listener: Frame): void {
  useEffect(() => {
    listeners.add(listener);
    if (listeners.size === 1) running = requestAnimationFrame(tick);
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) cancelAnimationFrame(running);
    };
  }, [listener]);
}
