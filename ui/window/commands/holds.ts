import { plainKey, type KeyPress } from '../../kit/gestures/plain-key';

/** A key that does something for as long as it is held. */
export interface Hold {
  key: string;
  begin: () => void;
  end: () => void;
  /** Other keys while it is held, or while what it began stays without being held. @returns true when the key meant something */
  onKey?: (event: KeyboardEvent) => boolean;
  /** True for what may begin in the middle of a drag. */
  duringDrag?: boolean;
}

/** The keys that are held, as a small state: at most one at a time. */
export class Holds {
  private current: Hold | null = null;

  constructor(private readonly holds: readonly Hold[]) {}

  /** Offers a key to what is held, or stays. @returns true when the key belongs to it */
  takes(event: KeyboardEvent): boolean {
    // The held key itself repeats.
    if (plainKey(event) === this.current?.key) return true;
    if (this.current) return this.current.onKey?.(event) ?? false;
    return this.holds.some((hold) => hold.onKey?.(event));
  }

  /** @returns true when the key begins a hold */
  begins(event: KeyboardEvent, isDragging = false): boolean {
    if (this.current || event.shiftKey || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return false;
    const hold = this.holds.find(({ key }) => key === plainKey(event));
    if (!hold || (isDragging && !hold.duringDrag)) return false;
    this.current = hold;
    hold.begin();
    return true;
  }

  up(event: KeyPress): void {
    // A Mac does not tell of keys that are let go while ⌘ is down.
    if (plainKey(event) === this.current?.key || event.key === 'Meta') this.release();
  }

  /** Lets go: also where the window is left while a key is down. */
  release(): void {
    const held = this.current;
    this.current = null;
    held?.end();
  }
}
