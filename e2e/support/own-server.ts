import { spawn, type ChildProcess } from 'node:child_process';
import { expect } from '@playwright/test';
import { serverEnvironment } from './environment';

/** A server of a test's own, which can be killed and started again on the same data. */
export class OwnServer {
  private process: ChildProcess | null = null;
  readonly url: string;

  constructor(
    private readonly port: number,
    private readonly dataDir: string,
  ) {
    this.url = `http://127.0.0.1:${port}`;
  }

  /** Starts it, in a process group of its own so that all of it can be killed, and waits until it answers. */
  async start(): Promise<void> {
    this.process = spawn(
      process.execPath,
      ['node_modules/next/dist/bin/next', 'start', '--port', String(this.port), '--hostname', '127.0.0.1'],
      {
        env: { ...serverEnvironment(this.port, this.dataDir), NEXT_MANUAL_SIG_HANDLE: 'true' },
        stdio: 'ignore',
        detached: true,
      },
    );
    const status = () =>
      fetch(`${this.url}/api/songs`).then(
        (response) => response.status,
        () => 0,
      );
    await expect.poll(status, { timeout: 30_000 }).toBe(200);
    // Another one may have answered at its port.
    expect(this.process.exitCode).toBeNull();
  }

  /** Asks it to end, as Ctrl+C does. @returns milliseconds until it has ended */
  async stop(): Promise<number> {
    const ended = new Promise((done) => this.process!.once('exit', done));
    const began = Date.now();
    this.process!.kill('SIGINT');
    await ended;
    this.process = null;
    return Date.now() - began;
  }

  kill(): void {
    // It may have ended by itself.
    if (this.process?.exitCode === null) process.kill(-this.process.pid!, 'SIGKILL');
    this.process = null;
  }
}
