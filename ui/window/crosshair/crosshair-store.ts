import type { Desk } from '../desk/desk';

/** Where the pointer, or the focused handle, stands on the frequency axis. Outside React: it moves with every pointer event. */
export interface CrosshairPlace {
  hz: number;
  /** Height of the label in the window, CSS pixels. */
  clientY: number;
  /** True where the pointer stands there, false where a handle with the focus does. */
  byPointer?: boolean;
}

type Listener = (place: CrosshairPlace | null) => void;

const makeCrosshair = () => ({ current: null as CrosshairPlace | null, listeners: new Set<Listener>() });
const crosshair = (desk: Desk) => desk.part(makeCrosshair);

/** The frequency under the crosshair, Hz; null where there is none. */
export const crosshairHz = (desk: Desk): number | null => crosshair(desk).current?.hz ?? null;

export function showCrosshair(desk: Desk, place: CrosshairPlace | null): void {
  crosshair(desk).current = place;
  for (const listener of crosshair(desk).listeners) listener(place);
}

export function onCrosshair(desk: Desk, listener: Listener): () => void {
  const { listeners } = crosshair(desk);
  listeners.add(listener);
  return () => listeners.delete(listener);
}
