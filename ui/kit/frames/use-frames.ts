'use client';
import { useEffect } from 'react';
import { isDragging } from '../gestures/drag';

type Frame = (milliseconds: number) => void;

const listeners = new Set<Frame>();
let running = 0;
let frames = 0;

/** A running mean of the time between frames, ms. */
let pace = 16;
let lastFrame = 0;

let motion: MediaQueryList | null = null;
const wantsCalm = () => (motion ??= matchMedia('(prefers-reduced-motion: reduce)')).matches;

/** How many times less often live pictures should be drawn: 1 where the browser keeps up; more where frames come late, while a drag comes first, and for those who want little motion. */
export const frameStrain = (): number =>
  (pace < 22 ? 1 : pace < 34 ? 2 : 4) * (isDragging() ? 2 : 1) * (wantsCalm() ? 8 : 1);

function tick(milliseconds: number): void {
  // A pause, as of a window that was hidden, says nothing.
  if (milliseconds - lastFrame < 500) pace += 0.05 * (milliseconds - lastFrame - pace);
  lastFrame = milliseconds;
  frames++;
  running = requestAnimationFrame(tick);
  for (const listener of listeners) listener(milliseconds);
}

/** How many frames a live figure or meter waits between two looks: 20 a second are enough for the eye. */
const LOOK_EVERY = 3;

/** True in every frame in which meters and figures look again: fewer of them where frames come late, and for those who want little motion. */
export const isLookFrame = (): boolean => frames % (LOOK_EVERY * frameStrain()) === 0;

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
