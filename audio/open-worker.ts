const MISSING =
  'A part of this page could not be had from the server, and what it does is missing until it comes. Your song is as it was.';
const FAILED = 'A part of this page failed, and what it does may be missing. Your song is as it was: reload the page.';

/** What a worker says first: its script has come, and it hears. */
export const IS_HERE = 'is here';

const FIRST_WAIT_MS = 300;
const LONGEST_WAIT_MS = 15_000;

/** A worker of the page whose script is asked for until it comes; what it is told before that waits. An endpoint for comlink. */
class PatientWorker extends EventTarget {
  private worker: Worker;
  private isHere = false;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly waiting: { message: unknown; transfer: Transferable[] }[] = [];

  constructor(
    private readonly url: string,
    private readonly failed: (message: string) => void,
  ) {
    super();
    this.worker = this.open();
  }

  private open(): Worker {
    const worker = new Worker(this.url);
    worker.onmessage = ({ data, ports }: MessageEvent<unknown>) => {
      if (data === IS_HERE) this.begin();
      else this.dispatchEvent(new MessageEvent('message', { data, ports: [...ports] }));
    };
    worker.onerror = () => {
      if (this.isHere) this.failed(FAILED);
      else this.askAgain();
    };
    return worker;
  }

  private begin(): void {
    this.isHere = true;
    for (const { message, transfer } of this.waiting.splice(0)) this.worker.postMessage(message, transfer);
  }

  /** One break may be a connection that was closed in passing; a second one in a row is said. */
  private askAgain(): void {
    if (++this.failures === 2) this.failed(MISSING);
    const wait = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (this.failures - 1));
    this.timer = setTimeout(() => (this.worker = this.open()), wait);
  }

  postMessage(message: unknown, transfer: Transferable[] = []): void {
    if (this.isHere) this.worker.postMessage(message, transfer);
    else this.waiting.push({ message, transfer });
  }

  terminate(): void {
    clearTimeout(this.timer);
    this.worker.onerror = null;
    this.worker.terminate();
  }
}

export type { PatientWorker };

/** Opens a worker of the page. @param failed hears in words that its script does not come yet, or that it failed */
export const openWorker = (url: string, failed: (message: string) => void) => new PatientWorker(url, failed);
