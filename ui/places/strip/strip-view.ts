import { useMemo, type RefObject } from 'react';
import { useDesk, type Desk } from '../../window/desk/desk';
import { clampedSpan, spanOr, useSongView, type Span } from '../../window/view/song-view';

/**
 * What the strip shows of the song and where its times lie, as they are when one asks: the wheel and fingers change them at every frame, and no component
 * is rendered for it.
 */
export interface StripView {
  /** The stretch that is shown; null for the whole song. */
  span: () => Span | null;
  shown: () => Span;
  /** CSS pixels a second; 0 where there is nothing to show. */
  perSecond: () => number;
  /** The time at a place in the window. */
  secondsAt: (clientX: number) => number;
  /** Calls back whenever another stretch is shown. @returns what ends that */
  onChange: (listener: () => void) => () => void;
}

/**
 * @param width of the strip, CSS pixels
 * @param lengthSeconds of the song: another view when it changes
 */
export function useStripView(box: RefObject<HTMLElement | null>, width: number, lengthSeconds: number): StripView {
  const desk = useDesk();
  return useMemo(() => stripView(desk, box, width, lengthSeconds), [desk, box, width, lengthSeconds]);
}

function stripView(desk: Desk, box: RefObject<HTMLElement | null>, width: number, lengthSeconds: number): StripView {
  const span = () => {
    const { span: chosen } = useSongView.of(desk);
    // The song may have become shorter.
    return chosen && clampedSpan(chosen.from, chosen.to - chosen.from, lengthSeconds);
  };
  const shown = () => spanOr(span(), lengthSeconds);
  const perSecond = () => {
    const { from, to } = shown();
    return to > from ? width / (to - from) : 0;
  };
  return {
    span,
    shown,
    perSecond,
    secondsAt: (clientX) =>
      shown().from + (clientX - box.current!.getBoundingClientRect().left) / Math.max(1e-9, perSecond()),
    onChange: useSongView.api(desk).subscribe,
  };
}
