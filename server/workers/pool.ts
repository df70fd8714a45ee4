import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { Piscina } from 'piscina';
import { OrvidError, type ErrorCode } from '@/core/errors';
import { config } from '../config';
import type { Report } from '../jobs/jobs';
import { singleton } from '../singleton';

/** What travels back from a worker thread: errors lose their class on the way. */
export type WorkerResult<T> = { value: T } | { error: { code: ErrorCode; message: string; kept?: string } };
export type WithPort<T> = T & { port: MessagePort };

type Task =
  | 'hash'
  | 'decode'
  | 'measure'
  | 'measurePart'
  | 'measureStrips'
  | 'stripLevels'
  | 'alignment'
  | 'bleed'
  | 'suspects'
  | 'overTime'
  | 'grid'
  | 'render'
  | 'fit'
  | 'freeze'
  | 'pack'
  | 'proof'
  | 'unpack';

/**
 * Threads of their own for each kind of work, so that what a person waits for never stands behind fifty imports, a long render, or what the
 * page asks for by itself of every track.
 */
const QUEUES = {
  hash: 'imports',
  decode: 'imports',
  render: 'renders',
  proof: 'renders',
  pack: 'bundles',
  unpack: 'bundles',
  measure: 'questions',
  measurePart: 'questions',
  measureStrips: 'questions',
  alignment: 'questions',
  grid: 'questions',
  overTime: 'questions',
  fit: 'questions',
  freeze: 'freezing',
  stripLevels: 'background',
  suspects: 'background',
  bleed: 'background',
} as const;

/** Threads that read files: as many as the machine has processors, within what the memory of the server may be. */
export const IMPORT_THREADS = Math.max(2, Math.min(4, availableParallelism()));
/**
 * The sound that they hold lies in buffers beside this: what they throw away is cleared sooner, and the server holds 130 MB less while damaged
 * files come in, no slower.
 */
const IMPORT_LIMITS = { maxYoungGenerationSizeMb: 12, maxOldGenerationSizeMb: 128 };
const THREADS = 2;

const pools = () => singleton('pools', () => new Map<string, Piscina>());

function pool(queue: (typeof QUEUES)[Task]): Piscina {
  const known = pools().get(queue);
  if (known) return known;
  const made = new Piscina({
    filename: path.join(config().buildDir, 'server-worker.mjs'),
    minThreads: 0,
    maxThreads: THREADS,
    idleTimeout: 20000,
    // A thread that is ended while its module is being required takes the whole process with it (Node.js 20: "must be used on an instantiated
    // module"); one that imports it just ends.
    execArgv: ['--no-experimental-require-module'],
    ...(queue === 'imports' && { maxThreads: IMPORT_THREADS, resourceLimits: IMPORT_LIMITS }),
  });
  pools().set(queue, made);
  return made;
}

/** Ends all threads; what they were doing is not finished. */
export async function endPools(): Promise<void> {
  await Promise.all([...pools().values()].map((threads) => threads.destroy()));
  pools().clear();
}

/**
 * Runs a task of `server/workers/main.ts` in a worker thread.
 * @param signal ends the thread when it aborts
 * @throws OrvidError what the task threw
 */
export async function runInWorker<T>(
  name: Task,
  task: object,
  signal?: AbortSignal,
  report: Report = () => undefined,
): Promise<T> {
  const { port1, port2 } = new MessageChannel();
  port1.on('message', ([step, progress]: [string, number]) => report(step, progress));
  try {
    const result = (await pool(QUEUES[name]).run(
      { ...task, port: port2 },
      { name, signal, transferList: [port2] },
    )) as WorkerResult<T>;
    if ('error' in result) throw new OrvidError(result.error.code, result.error.message, result.error.kept);
    return result.value;
  } finally {
    port1.close();
  }
}
