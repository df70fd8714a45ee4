import { OrvidError } from '@/core/errors';
import { singleton } from '../singleton';
import type { Job } from './job';

/** The line of what takes all that the machine has: so many are done at once, the rest waits for its turn. */
const AT_ONCE = 2;

interface Waiting {
  job: Job;
  go: () => void;
}

/** Whether the server stops: nothing begins any more. */
export const leaving = () => singleton('jobs-left', () => ({ isLeft: false }));

const line = () => singleton('job-line', () => ({ waiting: new Set<Waiting>(), busy: 0, lastPlace: 0 }));

/** The place at the end of the line. */
export const nextPlace = (): number => (line().lastPlace = Math.max(line().lastPlace + 1, Date.now()));

function beginNext(): void {
  const { waiting } = line();
  while (line().busy < AT_ONCE && waiting.size > 0 && !leaving().isLeft) {
    const next = [...waiting].reduce((first, second) => (second.job.place! < first.job.place! ? second : first));
    waiting.delete(next);
    line().busy++;
    next.go();
  }
}

/**
 * Waits until it is a job's turn.
 * @returns what tells that it has ended
 * @throws OrvidError `cancelled` when the signal aborts while it waits
 */
export async function waitForTurn(job: Job, signal: AbortSignal): Promise<() => void> {
  await new Promise<void>((resolve, reject) => {
    const waits: Waiting = { job, go: resolve };
    signal.addEventListener('abort', () => {
      if (line().waiting.delete(waits)) reject(new OrvidError('cancelled', 'It was cancelled while it waited.'));
    });
    line().waiting.add(waits);
    // Those that are started together all stand in line before the first of them begins.
    queueMicrotask(beginNext);
  });
  return () => {
    line().busy--;
    beginNext();
  };
}
