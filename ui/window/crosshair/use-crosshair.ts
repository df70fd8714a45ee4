import { useMemo } from 'react';
import { useDesk } from '../desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { showCrosshair } from './crosshair-store';

/** Handlers for a field of the shared axis: the crosshair follows the pointer over it. */
export function useCrosshair() {
  const desk = useDesk();
  const axis = useAxis();
  return useMemo(
    () => ({
      onPointerMove: (event: React.PointerEvent) => {
        const left = event.currentTarget.getBoundingClientRect().left;
        const x = Math.min(axis.width, Math.max(0, event.clientX - left));
        showCrosshair(desk, { hz: axis.hz(x), clientY: event.clientY, byPointer: true });
      },
      onPointerLeave: () => showCrosshair(desk, null),
    }),
    [axis, desk],
  );
}
