import { useEffect, type RefObject } from 'react';
import { isDragging } from '../../kit/gestures/drag';
import { wheelPixels } from '../../kit/gestures/wheel';
import { useDesk } from '../../window/desk/desk';
import { useSongView } from '../../window/view/song-view';
import type { StripView } from './strip-view';

/** How far a wheel turns for twice as much to be shown, in its own pixels. */
const PIXELS_PER_OCTAVE = 240;

/**
 * The wheel over the song strip: up and down, or two fingers drawn together, shows more or less of the song around the pointer; sideways, or with Shift,
 * goes along it.
 */
export function useStripWheel(box: RefObject<HTMLElement | null>, view: StripView): void {
  const desk = useDesk();
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      // What is dragged stays under the pointer.
      if (isDragging()) return;
      const turned = wheelPixels(event);
      const { dx, dy } = event.shiftKey && turned.dx === 0 ? { dx: turned.dy, dy: 0 } : turned;
      const perSecond = view.perSecond();
      if (perSecond === 0) return;
      const { scroll, zoom } = useSongView.of(desk);
      if (Math.abs(dx) > Math.abs(dy)) scroll(dx / perSecond);
      // Fingers on a touchpad come as a wheel with Ctrl, in small steps.
      else zoom(2 ** ((dy * (event.ctrlKey ? 4 : 1)) / PIXELS_PER_OCTAVE), view.secondsAt(event.clientX));
    };
    // Not passive: the page itself must not zoom or scroll.
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [box, desk, view]);
}
