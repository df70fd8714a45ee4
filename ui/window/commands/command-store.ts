import { deskStore, type Desk } from '../desk/desk';
import type { Hold } from './holds';
import type { KeyChord } from './keys';

/** Something that can be asked for by name, by key, or by a control. */
export interface Command {
  id: string;
  name: string;
  /** Other words by which it is looked for. */
  also?: string[];
  key?: KeyChord;
  /** Another one that people know it by. */
  otherKey?: KeyChord;
  inTitleMenu?: boolean;
  /** True for what may be done in the middle of a drag: it leaves alone what is dragged. */
  duringDrag?: boolean;
  run: () => void;
}

interface CommandStore {
  commands: readonly Command[];
  holds: readonly Hold[];
  palette: 'closed' | 'commands' | 'add-band';
  setPalette: (palette: CommandStore['palette']) => void;
}

export const useCommandStore = deskStore<CommandStore>(() => (set) => ({
  commands: [],
  holds: [],
  palette: 'closed',
  setPalette: (palette) => set({ palette }),
}));

export const useCommands = (): readonly Command[] => useCommandStore((store) => store.commands);

export function runCommand(desk: Desk, id: string): void {
  useCommandStore
    .of(desk)
    .commands.find((command) => command.id === id)
    ?.run();
}
