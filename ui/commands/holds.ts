/** A key that does something for as long as it is held. */
export interface Hold {
  key: string;
  begin: () => void;
  end: () => void;
  /** Other keys while it is held. @returns true when the key meant something */
  onKey?: (event: KeyboardEvent) => boolean;
}

/** The keys that are held, as a small state: at most one at a time. */
export class Holds {
  private current: Hold | null = null;

  constructor(private readonly holds: readonly Hold[]) {}

  /** @returns true when the key belongs to a hold */
  down(event: KeyboardEvent): boolean {
    if (this.current) {
      // Other keys go to what is held; the held key itself repeats.
      if (event.key.toLowerCase() === this.current.key) return true;
      return this.current.onKey?.(event) ?? false;
    }
    if (event.shiftKey || event.ctrlKey || event.metaKey || event.altKey || event.repeat) return false;
    const hold = this.holds.find(({ key }) => key === event.key.toLowerCase());
    if (!hold) return false;
    this.current = hold;
    hold.begin();
    return true;
  }

  up(event: Pick<KeyboardEvent, 'key'>): void {
    if (event.key.toLowerCase() === this.current?.key) this.release();
  }

  /** Lets go: also where the window is left while a key is down. */
  release(): void {
    const held = this.current;
    this.current = null;
    held?.end();
  }
}
