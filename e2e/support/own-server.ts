import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { serverEnvironment } from './environment';

const START_MS = 30_000;

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
    const answers = () =>
      fetch(`${this.url}/api/songs`).then(
        ({ status }) => status === 200,
        () => false,
      );
    const deadline = Date.now() + START_MS;
    while (!(await answers())) {
      if (Date.now() > deadline) throw new Error(`No answer at ${this.url} after ${START_MS / 1000} s.`);
      await wait(100);
    }
    // Another one may have answered at its port.
    if (!this.isRunning) throw new Error(`The server at ${this.url} has ended.`);
  }

  /** False once it has ended, by itself or not. */
  get isRunning(): boolean {
    return this.process !== null && this.process.exitCode === null && this.process.signalCode === null;
  }

  get pid(): number {
    return this.process!.pid!;
  }

  /** The most memory that it has held, MiB. */
  get peakMebibytes(): number {
    const status = readFileSync(`/proc/${this.pid}/status`, 'utf8');
    return Number(/VmHWM:\s*(\d+)/.exec(status)![1]) / 1024;
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
