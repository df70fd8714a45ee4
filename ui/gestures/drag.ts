/**
 * A pointer gesture as a small state: idle, dragging, ended. Moves are taken once a frame; Escape leaves no trace.
 * Shift makes it fine: a fifth of the way. Everything is in CSS pixels.
 */
export interface DragMove {
  /** How far the pointer has gone since the press, fine stretches counted as a fifth. */
  dx: number;
  dy: number;
  /** Where the pointer is in the window. */
  clientX: number;
  clientY: number;
}

export interface DragHandlers {
  onMove: (move: DragMove) => void;
  /** Hears of a move at once, where the browser tells it before the frame: for what must be heard and not only seen. */
  onEarly?: (move: DragMove) => void;
  onEnd: () => void;
  onCancel: () => void;
}

const FINE = 0.2;
const CAPTURE = { capture: true };
/** A press that moves less than this is a click. */
const CLICK_SLOP = 3;

let drags = 0;

/** True while something is dragged: what is drawn beside it may wait. */
export const isDragging = (): boolean => drags > 0;

/** Follows a press until it is let go. @param press the event of the press; its default action is prevented */
export function followDrag(press: PointerEvent, handlers: DragHandlers): void {
  let dx = 0;
  let dy = 0;
  let last = { x: press.clientX, y: press.clientY };
  let hasMoved = false;
  let frame = 0;

  const take = () => {
    frame = 0;
    handlers.onMove({ dx, dy, clientX: last.x, clientY: last.y });
  };
  const finish = (keep: boolean) => {
    cancelAnimationFrame(frame);
    window.removeEventListener('pointermove', move, CAPTURE);
    window.removeEventListener('pointerrawupdate', early, CAPTURE);
    window.removeEventListener('pointerup', up, CAPTURE);
    window.removeEventListener('pointercancel', cancel, CAPTURE);
    window.removeEventListener('keydown', key, CAPTURE);
    drags--;
    if (!hasMoved) return;
    if (keep) {
      take();
      handlers.onEnd();
    } else handlers.onCancel();
  };
  const follow = (event: PointerEvent) => {
    const step = event.shiftKey ? FINE : 1;
    dx += (event.clientX - last.x) * step;
    dy += (event.clientY - last.y) * step;
    last = { x: event.clientX, y: event.clientY };
    hasMoved ||= Math.hypot(last.x - press.clientX, last.y - press.clientY) >= CLICK_SLOP;
  };
  const early = (event: Event) => {
    if (!(event instanceof PointerEvent) || event.pointerId !== press.pointerId) return;
    follow(event);
    if (hasMoved) handlers.onEarly?.({ dx, dy, clientX: last.x, clientY: last.y });
  };
  const move = (event: PointerEvent) => {
    if (event.pointerId !== press.pointerId) return;
    follow(event);
    if (hasMoved) frame ||= requestAnimationFrame(take);
  };
  const up = (event: PointerEvent) => event.pointerId === press.pointerId && finish(true);
  const cancel = (event: PointerEvent) => event.pointerId === press.pointerId && finish(false);
  const key = (event: KeyboardEvent) => {
    if (event.key !== 'Escape') return;
    event.preventDefault();
    event.stopPropagation();
    finish(false);
  };
  drags++;
  window.addEventListener('pointermove', move, CAPTURE);
  if (handlers.onEarly) window.addEventListener('pointerrawupdate', early, CAPTURE);
  window.addEventListener('pointerup', up, CAPTURE);
  window.addEventListener('pointercancel', cancel, CAPTURE);
  window.addEventListener('keydown', key, CAPTURE);
}
