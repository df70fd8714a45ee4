import os from 'node:os';

/** What a thread is started with that gives way. */
export const GIVES_WAY = 'gives-way';
/** It has a third of what others have where both want all of a core. */
const NICENESS = 5;

/**
 * Lets this thread, and those that it starts, give way to what answers, plays and draws on the same machine, where it was started to. Only Linux
 * has priorities of single threads; elsewhere that of the whole server would change.
 */
export function giveWay(): void {
  if (process.platform === 'linux' && process.argv.includes(GIVES_WAY)) os.setPriority(NICENESS);
}
