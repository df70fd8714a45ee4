import type { ComponentType } from 'react';
import type { Command } from '../window/commands/command-store';
import type { Hold } from '../window/commands/holds';
import type { Desk } from '../window/desk/desk';

/** Opens a page of the application. */
export type Go = (path: string) => void;

/** Something that one does with a song: each folder of this wing describes one, and the list in `works.ts` names them all. */
export interface Work {
  /** What of it can be asked for by name and by key. */
  commands?: (desk: Desk, go: Go) => Command[];
  /** A key that does something for as long as it is held. */
  hold?: (desk: Desk) => Hold;
  /** Its panel in the side, with the key that shows it: Alt and a digit, or Alt and a letter. */
  panel?: { id: string; name: string; digit: number | 'p' | 'h'; Panel: ComponentType };
  /** Its sheets over the page; each shows itself when it is asked for. */
  Sheets?: ComponentType;
  /** The same, for those that nobody asks for as soon as the page is seen. */
  LateSheets?: ComponentType;
}
