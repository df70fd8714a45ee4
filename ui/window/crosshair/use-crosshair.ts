import { useMemo } from 'react';
import { useDesk, type Desk } from '../desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import type { FrequencyScale } from '../../kit/axis/scale';
import { showCrosshair } from './crosshair-store';

function crosshairHandlers(desk: Desk, axis: FrequencyScale) {
  // Asked for once: in the middle of a gesture the browser would have to lay the page out for it.
  let left: number | null = null;
  return {
    onPointerEnter: () => (left = null),
    onPointerMove: (event: React.PointerEvent) => {
      left ??= event.currentTarget.getBoundingClientRect().left;
      const x = Math.min(axis.width, Math.max(0, event.clientX - left));
      showCrosshair(desk, { hz: axis.hz(x), clientY: event.clientY, byPointer: true });
    },
    onPointerLeave: () => showCrosshair(desk, null),
  };
}

/** Handlers for a field of the shared axis: the crosshair follows the pointer over it. */
export function useCrosshair() {
  const desk = useDesk();
  const axis = useAxis();
  return useMemo(() => crosshairHandlers(desk, axis), [axis, desk]);
}
