/** Where the pointer, or the focused handle, stands on the frequency axis. Outside React: it moves with every pointer event. */
export interface CrosshairPlace {
  hz: number;
  /** Height of the label in the window, CSS pixels. */
  clientY: number;
}

type Listener = (place: CrosshairPlace | null) => void;
const listeners = new Set<Listener>();

export function showCrosshair(place: CrosshairPlace | null): void {
  for (const listener of listeners) listener(place);
}

export function onCrosshair(listener: Listener): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
