/** Where the pointer, or the focused handle, stands on the frequency axis. Outside React: it moves with every pointer event. */
export interface CrosshairPlace {
  hz: number;
  /** Height of the label in the window, CSS pixels. */
  clientY: number;
  /** True where the pointer stands there, false where a handle with the focus does. */
  byPointer?: boolean;
}

type Listener = (place: CrosshairPlace | null) => void;
const listeners = new Set<Listener>();

let current: CrosshairPlace | null = null;

/** The frequency under the crosshair, Hz; null where there is none. */
export const crosshairHz = (): number | null => current?.hz ?? null;

export function showCrosshair(place: CrosshairPlace | null): void {
  current = place;
  for (const listener of listeners) listener(place);
}

export function onCrosshair(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
