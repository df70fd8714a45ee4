import { subscribe, type SongEvent } from './events';
import { editsSince } from './store';

const HEARTBEAT_MS = 15000;
/** No more waits for a window that does not read, bytes. */
const MOST_WAITING = 2 ** 20;

/**
 * Server-sent events of a song: the edits after a revision, then everything as it happens. A window that does not read is let go of: it has
 * what waits for it, comes again, and is told what it missed.
 * @param signal aborted when the window is gone
 */
export function eventStream(songId: string, since: number, signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let stop = () => {};
  const source: UnderlyingDefaultSource<Uint8Array> = {
    async start(controller) {
      let isOver = false;
      const write = (text: string) => {
        if (isOver) return;
        if ((controller.desiredSize ?? 0) > 0) return controller.enqueue(encoder.encode(text));
        stop();
        controller.close();
      };
      const send = (event: SongEvent) => write(`data: ${JSON.stringify(event)}\n\n`);
      const unsubscribe = subscribe(songId, send);
      const heartbeat = setInterval(() => write(': still here\n\n'), HEARTBEAT_MS);
      stop = () => {
        isOver = true;
        unsubscribe();
        clearInterval(heartbeat);
      };
      signal.addEventListener('abort', stop);
      write(': listening\n\n');
      (await editsSince(songId, since)).forEach(send);
    },
    cancel: () => stop(),
  };
  return new ReadableStream(source, { highWaterMark: MOST_WAITING, size: ({ byteLength }) => byteLength });
}
