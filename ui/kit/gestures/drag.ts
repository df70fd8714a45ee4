import type { PointerEvent as ReactPointerEvent } from 'react';
import { forgetInFrame, takeInFrame } from '../frames/pictures';
import { plainKey } from './plain-key';

/**
 * A pointer gesture as a small state: idle, dragging, ended. A move is taken once a frame: at once where the frame has had none yet, so
 * that it is heard early, and else with the next frame; where frames are long, again after {@link MOVES_APART_MS}. Shift makes it fine: a fifth of the way. Escape leaves no trace. Everything is in
 * CSS pixels.
 */
export interface DragMove {
  /** How far the pointer has gone since the press, fine stretches counted as a fifth. */
  dx: number;
  dy: number;
  /** Where the pointer is in the window. */
  clientX: number;
  clientY: number;
  /** True while Shift is held. */
  isFine: boolean;
}

export interface DragHandlers {
  onMove: (move: DragMove) => void;
  onEnd: () => void;
  onCancel: () => void;
}

const FINE = 0.2;
const CAPTURE = { capture: true };
/** Moves are taken at least as often as this while they come, so that what is heard does not wait for what is seen. */
const MOVES_APART_MS = 20;
/** A press that moves less than this is a click. */
const CLICK_SLOP = 3;
/** Keys that never change what is dragged. */
const MODIFIERS = ['Shift', 'Control', 'Alt', 'Meta', ' '];

let drags = 0;

/** True while something is dragged in this window: what is drawn beside it may wait. */
export const isDragging = (): boolean => drags > 0;

/** Keeps the pointer with what it pressed until it is let go: the browser need not look at every move for what lies under it. For what does nothing on a click. */
export function holdPointer({ button, currentTarget, pointerId }: ReactPointerEvent): void {
  if (button === 0) currentTarget.setPointerCapture(pointerId);
}

/**
 * Follows a press until it is let go.
 * @param press the event of the press
 * @returns ends it from outside, as Escape does
 */
export function followDrag(press: PointerEvent, handlers: DragHandlers): { end: () => void } {
  let dx = 0;
  let dy = 0;
  let last = { x: press.clientX, y: press.clientY };
  let isFine = press.shiftKey;
  let hasMoved = false;
  let isOver = false;
  /** True where this frame has had its move; what comes later in it waits for the next. */
  let isTaken = false;
  let isWaiting = false;
  let takenAt = 0;

  const moveOnce = () => {
    isTaken = true;
    isWaiting = false;
    takenAt = performance.now();
    takeInFrame(nextFrame);
    handlers.onMove({ dx, dy, clientX: last.x, clientY: last.y, isFine });
  };
  const nextFrame = () => {
    isTaken = false;
    if (isWaiting && !isOver) moveOnce();
  };
  const finish = (isKept: boolean) => {
    if (isOver) return;
    isOver = true;
    forgetInFrame(nextFrame);
    window.removeEventListener('pointermove', move, CAPTURE);
    window.removeEventListener('pointerrawupdate', move, CAPTURE);
    window.removeEventListener('pointerup', up, CAPTURE);
    window.removeEventListener('pointercancel', cancel, CAPTURE);
    window.removeEventListener('keydown', key, CAPTURE);
    drags--;
    if (!hasMoved) return;
    if (isKept) {
      if (isWaiting) handlers.onMove({ dx, dy, clientX: last.x, clientY: last.y, isFine });
      handlers.onEnd();
    } else handlers.onCancel();
  };
  const move = (moved: Event) => {
    const event = moved as PointerEvent;
    if (event.pointerId !== press.pointerId) return;
    if (event.clientX === last.x && event.clientY === last.y) return;
    isFine = event.shiftKey;
    const step = isFine ? FINE : 1;
    dx += (event.clientX - last.x) * step;
    dy += (event.clientY - last.y) * step;
    last = { x: event.clientX, y: event.clientY };
    hasMoved ||= Math.hypot(last.x - press.clientX, last.y - press.clientY) >= CLICK_SLOP;
    if (!hasMoved) return;
    if (isTaken && performance.now() - takenAt < MOVES_APART_MS) isWaiting = true;
    else moveOnce();
  };
  const up = (event: PointerEvent) => event.pointerId === press.pointerId && finish(true);
  const cancel = (event: PointerEvent) => event.pointerId === press.pointerId && finish(false);
  const key = (event: KeyboardEvent) => {
    if (/^[a-z0-9]$/.test(plainKey(event)) || MODIFIERS.includes(event.key)) return;
    // Arrows, Delete, Tab and the like would change what is dragged, or leave it.
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Escape') finish(false);
  };
  drags++;
  window.addEventListener('pointermove', move, CAPTURE);
  window.addEventListener('pointerrawupdate', move, CAPTURE);
  window.addEventListener('pointerup', up, CAPTURE);
  window.addEventListener('pointercancel', cancel, CAPTURE);
  window.addEventListener('keydown', key, CAPTURE);
  return { end: () => finish(false) };
}
