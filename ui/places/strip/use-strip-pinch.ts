import { useEffect, type RefObject } from 'react';
import { useDesk } from '../../window/desk/desk';
import { useSongView, type Span } from '../../window/view/song-view';
import type { StripView } from './strip-view';

/** A finger on the strip: where it is in the window, and the time that it holds. */
interface Finger {
  x: number;
  seconds: number;
}

/** Fingers that come nearer to each other than this show no less of the song for it, px. */
const CLOSEST = 24;

/** What has to be shown so that each of two fingers has its time under it. @param left where the strip begins, @param wide how wide it is, px */
export function spanBetween(a: Finger, b: Finger, left: number, wide: number): Span | null {
  const [first, last] = a.seconds < b.seconds ? [a, b] : [b, a];
  const seconds = last.seconds - first.seconds;
  if (seconds <= 0) return null;
  const perSecond = Math.max(CLOSEST, last.x - first.x) / seconds;
  const from = first.seconds - (first.x - left) / perSecond;
  return { from, to: from + wide / perSecond };
}

/**
 * Does what a press on the strip is for: at once, or for a finger when it is let go, since another may come to it and the two then show more or less of
 * the song.
 */
export function atPress({ pointerType, pointerId }: PointerEvent, act: () => void): void {
  if (pointerType !== 'touch') return act();
  const end = (event: PointerEvent) => {
    if (event.pointerId !== pointerId) return;
    window.removeEventListener('pointerup', end);
    window.removeEventListener('pointercancel', end);
    if (event.type === 'pointerup') act();
  };
  window.addEventListener('pointerup', end);
  window.addEventListener('pointercancel', end);
}

/**
 * Two fingers on the song strip hold the times under them: drawn apart they show less of it, together they go along it. What the first has begun to drag
 * is left as it was.
 */
export function useStripPinch(box: RefObject<HTMLElement | null>, view: StripView): void {
  const desk = useDesk();
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const fingers = new Map<number, Finger>();
    const put = (pointerId: number, x: number) => fingers.set(pointerId, { x, seconds: view.secondsAt(x) });
    const down = (event: PointerEvent) => {
      if (event.pointerType !== 'touch') return;
      // The first on the screen: of others that were there nothing more comes.
      if (event.isPrimary) fingers.clear();
      const [first] = fingers;
      put(event.pointerId, event.clientX);
      if (!first) return;
      event.stopPropagation();
      const [pointerId, { x }] = first;
      put(pointerId, x);
      element.dispatchEvent(new PointerEvent('pointercancel', { pointerId, bubbles: true }));
    };
    const move = (event: PointerEvent) => {
      const finger = fingers.get(event.pointerId);
      if (!finger) return;
      finger.x = event.clientX;
      const [a, b] = fingers.values();
      if (!b) return;
      const { left, width } = element.getBoundingClientRect();
      const span = spanBetween(a, b, left, width);
      if (span) useSongView.of(desk).place(span);
    };
    const up = (event: PointerEvent) => {
      if (event.isTrusted) fingers.delete(event.pointerId);
    };
    const capture = { capture: true };
    element.addEventListener('pointerdown', down, capture);
    window.addEventListener('pointermove', move, capture);
    window.addEventListener('pointerup', up, capture);
    window.addEventListener('pointercancel', up, capture);
    return () => {
      element.removeEventListener('pointerdown', down, capture);
      window.removeEventListener('pointermove', move, capture);
      window.removeEventListener('pointerup', up, capture);
      window.removeEventListener('pointercancel', up, capture);
    };
  }, [box, desk, view]);
}
