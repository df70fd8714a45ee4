import { spawn, type ChildProcess } from 'node:child_process';
import type { Readable, Writable } from 'node:stream';
import { CHROMIUM, CHROMIUM_FLAGS } from '@/e2e/support/environment';
import { temporaryFolder } from '@/e2e/support/folder';

interface Answer {
  id?: number;
  result?: Record<string, unknown>;
  error?: { message: string };
}

/**
 * A browser that is told only what page to open and which key to press, by the DevTools protocol over a pipe. Tools of tests look at its network too, and then
 * the page's process keeps some of what it has fetched for them: here it holds what it holds.
 */
export class BareBrowser {
  private readonly profile = temporaryFolder('orvid-browser');
  private readonly process: ChildProcess;
  private readonly waiting = new Map<number, (answer: Answer) => void>();
  private last = 0;
  private sessionId: string | undefined;

  constructor() {
    this.process = spawn(
      CHROMIUM,
      [
        ...CHROMIUM_FLAGS,
        '--headless',
        '--window-size=1280,800',
        '--remote-debugging-pipe',
        `--user-data-dir=${this.profile}`,
        '--no-first-run',
      ],
      { stdio: ['ignore', 'ignore', 'ignore', 'pipe', 'pipe'] },
    );
    let text = '';
    (this.process.stdio[4] as Readable).setEncoding('utf8').on('data', (piece: string) => {
      const messages = (text + piece).split('\0');
      text = messages.pop()!;
      for (const message of messages) {
        const answer = JSON.parse(message) as Answer;
        if (answer.id !== undefined) this.waiting.get(answer.id)?.(answer);
      }
    });
  }

  private async send<T>(method: string, params: object = {}): Promise<T> {
    const id = ++this.last;
    const answered = new Promise<Answer>((done) => this.waiting.set(id, done));
    (this.process.stdio[3] as Writable).write(
      `${JSON.stringify({ id, method, params, sessionId: method.startsWith('Target.') ? undefined : this.sessionId })}\0`,
    );
    const { result, error } = await answered;
    this.waiting.delete(id);
    if (error) throw new Error(`${method}: ${error.message}`);
    return result as T;
  }

  /** Opens a page of 1280 × 800 pixels; keys go to it. */
  async open(url: string): Promise<void> {
    const { targetId } = await this.send<{ targetId: string }>('Target.createTarget', { url });
    const attached = { targetId, flatten: true };
    ({ sessionId: this.sessionId } = await this.send<{ sessionId: string }>('Target.attachToTarget', attached));
  }

  async pressSpace(): Promise<void> {
    const key = { key: ' ', code: 'Space', windowsVirtualKeyCode: 32 };
    await this.send('Input.dispatchKeyEvent', { type: 'keyDown', ...key, text: ' ' });
    await this.send('Input.dispatchKeyEvent', { type: 'keyUp', ...key });
  }

  /** What stands in the page at a test id. */
  async textOf(testId: string): Promise<string> {
    const expression = `document.querySelector('[data-testid="${testId}"]')?.textContent ?? ''`;
    const { result } = await this.send<{ result: { value: string } }>('Runtime.evaluate', { expression });
    return result.value;
  }

  close(): void {
    this.process.kill();
  }
}
