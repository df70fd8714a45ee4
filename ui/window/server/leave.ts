import type { Desk } from '../desk/desk';
import { tell } from '../notices/notices';

/** Something small that is always there. */
const ALWAYS_THERE = '/icon.svg';
/** A server that says nothing for so long is taken to be gone. */
const LONGEST_MS = 4000;

/** From now on the browser asks who would leave the window: what is on its way would not arrive. @returns what ends that */
export function askBeforeLeaving(): () => void {
  const ask = (event: BeforeUnloadEvent) => event.preventDefault();
  window.addEventListener('beforeunload', ask);
  return () => window.removeEventListener('beforeunload', ask);
}

/**
 * Goes to another page of the application if the server answers. Where it does not there is nothing to go to: the browser would put
 * its own words in the place of the song, which stays open instead.
 */
export async function leaveFor(desk: Desk, path: string, go: (path: string) => void): Promise<void> {
  let isLeft = false;
  desk.onEnd(() => (isLeft = true));
  try {
    await fetch(ALWAYS_THERE, { method: 'HEAD', cache: 'no-store', signal: AbortSignal.timeout(LONGEST_MS) });
  } catch {
    tell(
      desk,
      'The server cannot be reached, so there is no other page to show. The song stays open, and what is done here is kept.',
      'error',
    );
    return;
  }
  // It may have been left another way meanwhile.
  if (!isLeft) go(path);
}
