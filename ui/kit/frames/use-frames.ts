'use client';
import { useEffect } from 'react';
import { isDragging } from '../gestures/drag';

type Frame = (milliseconds: number) => void;

const listeners = new Set<Frame>();
const busy = new Set<() => boolean>();
let running = 0;
let waiting: ReturnType<typeof setTimeout> | undefined;
let frames = 0;
/** When somebody did something last, ms. */
let lastDeed = 0;

/** So long after somebody did something every frame counts. */
const AWAKE_MS = 1000;
/** At rest it is looked so seldom whether there is something to draw. */
const REST_MS = 200;
/** Frames of which one is drawn while something goes on by itself, for those who want little motion. */
const CALM_FRAMES = 3;
const CALM_MS = 40;
/** What wakes the clock. */
const DEEDS = [
  'pointermove',
  'pointerdown',
  'pointerup',
  'wheel',
  'keydown',
  'keyup',
  'focusin',
  'input',
  'resize',
  'scroll',
  'drop',
];

/** A running mean of the time between frames, ms. */
let pace = 16;
let lastFrame = 0;

let motion: MediaQueryList | null = null;
let isCalm = false;
/** Kept: asking the browser would bring the page's styles up to date in the middle of a frame. */
function wantsCalm(): boolean {
  if (!motion) {
    motion = matchMedia('(prefers-reduced-motion: reduce)');
    isCalm = motion.matches;
    motion.addEventListener('change', ({ matches }) => (isCalm = matches));
  }
  return isCalm;
}

/** How many times less often live pictures should be drawn: 1 where the browser keeps up; more where frames come late, while a drag comes first, and for those who want little motion. */
export const frameStrain = (): number =>
  (pace < 22 ? 1 : pace < 34 ? 2 : 4) * (isDragging() ? 2 : 1) * (wantsCalm() ? 8 : 1);

function tick(milliseconds: number): void {
  const isNext = waiting === undefined;
  waiting = undefined;
  // A pause, as of a window that was hidden, or of the clock itself, says nothing.
  if (isNext && milliseconds - lastFrame < 500) pace += 0.05 * (milliseconds - lastFrame - pace);
  lastFrame = milliseconds;
  frames++;
  try {
    for (const listener of listeners) listener(milliseconds);
  } finally {
    goOn();
  }
}

/** Sees to the next frame: at once while somebody does something, or something goes on; else in a while. */
function goOn(): void {
  if (listeners.size === 0) return;
  const isAwake = performance.now() - lastDeed < AWAKE_MS || isDragging();
  const isBusy = [...busy].some((isGoingOn) => isGoingOn());
  if (isAwake || (isBusy && !wantsCalm())) running = requestAnimationFrame(tick);
  else if (isBusy) later(CALM_MS, frames - (frames % CALM_FRAMES) + CALM_FRAMES - 1);
  // At rest everything is looked at in every frame that there is.
  else later(REST_MS, -1);
}

/** @param before the number of the frame before the next one */
function later(milliseconds: number, before: number): void {
  frames = before;
  waiting = setTimeout(() => (running = requestAnimationFrame(tick)), milliseconds);
}

function wake(): void {
  lastDeed = performance.now();
  if (waiting === undefined) return;
  clearTimeout(waiting);
  cancelAnimationFrame(running);
  waiting = undefined;
  running = requestAnimationFrame(tick);
}

function start(): void {
  for (const deed of DEEDS) window.addEventListener(deed, wake, { capture: true, passive: true });
  lastDeed = performance.now();
  running = requestAnimationFrame(tick);
}

function stop(): void {
  for (const deed of DEEDS) window.removeEventListener(deed, wake, { capture: true });
  cancelAnimationFrame(running);
  clearTimeout(waiting);
  waiting = undefined;
}

/** Keeps the clock going for as long as something goes on by itself. @returns what ends that */
export function keepFrames(isGoingOn: () => boolean): () => void {
  busy.add(isGoingOn);
  return () => void busy.delete(isGoingOn);
}

/** How many frames a live figure or meter waits between two looks: 20 a second are enough for the eye. */
const LOOK_EVERY = 3;

/** True in every frame in which meters and figures look again: fewer of them where frames come late, and for those who want little motion. */
export const isLookFrame = (): boolean => frames % (LOOK_EVERY * frameStrain()) === 0;

/**
 * Calls back once a frame, all callers in one turn of the browser's clock; five times a second while nobody does anything and nothing goes on: a page at rest
 * costs next to nothing.
 */
export function useFrames(listener: Frame): void {
  useEffect(() => {
    listeners.add(listener);
    if (listeners.size === 1) start();
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) stop();
    };
  }, [listener]);
}
