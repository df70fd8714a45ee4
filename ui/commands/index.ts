export { runCommand, useCommands, useCommandStore } from './command-store';
export { allCommands, removeChosenTrack } from './commands';
export { keyName } from './keys';
export { Palette } from './palette';
export { useClipboard } from './use-clipboard';
export { useKeys } from './use-keys';
