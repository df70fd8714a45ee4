import { create } from 'zustand';
import type { KeyChord } from './keys';

/** Something that can be asked for by name, by key, or by a control. */
export interface Command {
  id: string;
  name: string;
  key?: KeyChord;
  inTitleMenu?: boolean;
  run: () => void;
}

interface CommandStore {
  commands: readonly Command[];
  palette: 'closed' | 'commands' | 'add-band';
  isRendering: boolean;
  setPalette: (palette: CommandStore['palette']) => void;
  setRendering: (isOpen: boolean) => void;
}

export const useCommandStore = create<CommandStore>((set) => ({
  commands: [],
  palette: 'closed',
  isRendering: false,
  setPalette: (palette) => set({ palette }),
  setRendering: (isRendering) => set({ isRendering }),
}));

export const useCommands = (): readonly Command[] => useCommandStore((store) => store.commands);

export function runCommand(id: string): void {
  useCommandStore
    .getState()
    .commands.find((command) => command.id === id)
    ?.run();
}
