import { useEffect, useState, type RefObject } from 'react';
import type { Span } from '../../window/view/song-view';
import type { StripView } from './strip-view';

/** The strip is at rest when it was not zoomed or scrolled for so long, or when the pointer goes on. */
const REST_MS = 120;

/** What the strip showed when it was last at rest, and whether it is. */
export function useRested(box: RefObject<HTMLElement | null>, view: StripView): { shown: Span; isMoving: boolean } {
  const [moving, setMoving] = useState<{ from: StripView; shown: Span } | null>(null);
  useEffect(() => {
    const element = box.current;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const rest = () => {
      clearTimeout(timer);
      timer = undefined;
      setMoving(null);
    };
    let last = view.shown();
    const stop = view.onChange(() => {
      // How it stood before: this is the first of many changes.
      if (timer === undefined) setMoving({ from: view, shown: last });
      clearTimeout(timer);
      timer = setTimeout(rest, REST_MS);
      last = view.shown();
    });
    const onMove = ({ movementX, movementY, buttons }: PointerEvent) => {
      // Fingers that zoom move as well.
      if (timer !== undefined && buttons === 0 && (movementX !== 0 || movementY !== 0)) rest();
    };
    element?.addEventListener('pointermove', onMove);
    return () => {
      stop();
      clearTimeout(timer);
      element?.removeEventListener('pointermove', onMove);
    };
  }, [box, view]);
  const isMoving = moving?.from === view;
  return { shown: isMoving ? moving.shown : view.shown(), isMoving };
}
