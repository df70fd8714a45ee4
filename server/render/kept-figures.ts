import { createHash } from 'node:crypto';
import { compileSong, isHeard } from '@/core/engine';
import type { Song } from '@/core/song';
import type { Report } from '../jobs/jobs';
import { singleton } from '../singleton';

/** Figures that are kept: those of several songs of many tracks. */
const MOST_KEPT = 2000;
/** Bytes of them, about. */
const MOST_BYTES = 64 * 2 ** 20;
interface Kept {
  value: unknown;
  bytes: number;
}
const kept = () => singleton('kept figures', () => new Map<string, Kept>());

/** What the figures of a part of a song depend on: everything of it that is heard, and nothing else. */
export function dependencies(part: Song, ...others: unknown[]): string {
  const compiled = compileSong(part);
  const heard = compiled.tracks.filter(isHeard);
  return createHash('sha256')
    .update(JSON.stringify([{ ...compiled, tracks: heard }, ...others]))
    .digest('hex');
}

/**
 * Keeps a figure as the one that was asked for last.
 * @param bytes how large it is, about
 */
export function keep(key: string, value: unknown, bytes: number): void {
  const all = kept();
  all.delete(key);
  all.set(key, { value, bytes });
  let held = [...all.values()].reduce((sum, { bytes }) => sum + bytes, 0);
  for (const [oldest, { bytes: freed }] of all) {
    if (all.size <= MOST_KEPT && held <= MOST_BYTES) break;
    all.delete(oldest);
    held -= freed;
  }
}

/** What is kept of a figure, which is then the one that was asked for last; undefined where nothing is. */
export function known<T>(key: string): T | undefined {
  const figure = kept().get(key);
  if (figure) keep(key, figure.value, figure.bytes);
  return figure?.value as T | undefined;
}

/** What is measured just now, for all who ask about it. */
interface Measuring<T = unknown> {
  value: Promise<T>;
  /** How many wait for it. */
  waiting: number;
  control: AbortController;
  ending?: NodeJS.Timeout;
  /** Those who are told how far it is. */
  reports: Set<Report>;
  /** It goes on for so long after the last one has left, ms: what takes a moment is kept, and a page that comes back finds it under way. */
  graceMs: number;
}

/** How one waits for what is measured. */
interface Waiting {
  /** Is told how far it is. */
  report?: Report;
  /** As above. What goes on for longer than usual ends when another such measurement begins: it holds up no more than one thread. */
  graceMs?: number;
}
const measuring = () => singleton('figures being measured', () => new Map<string, Measuring>());

const GRACE_MS = 500;

function end(key: string, begun: Measuring): void {
  clearTimeout(begun.ending);
  if (measuring().get(key) === begun) measuring().delete(key);
  begun.control.abort();
}

function begin<T>(
  key: string,
  measure: (signal: AbortSignal, report: Report) => Promise<T>,
  bytes: (value: T) => number,
  graceMs: number,
): Measuring<T> {
  if (graceMs > GRACE_MS)
    for (const [other, left] of measuring()) if (left.waiting === 0 && left.graceMs > GRACE_MS) end(other, left);
  const control = new AbortController();
  const reports = new Set<Report>();
  const value = measure(control.signal, (step, progress) => reports.forEach((report) => report(step, progress)))
    .then((measured) => {
      keep(key, measured, bytes(measured));
      return measured;
    })
    .finally(() => {
      if (measuring().get(key) === begun) measuring().delete(key);
    });
  const begun: Measuring<T> = { value, waiting: 0, control, reports, graceMs };
  measuring().set(key, begun);
  return begun;
}

async function wait<T>(key: string, begun: Measuring<T>, signal: AbortSignal, report?: Report): Promise<T> {
  begun.waiting++;
  if (report) begun.reports.add(report);
  clearTimeout(begun.ending);
  const left = new Promise<never>((_, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
  });
  try {
    return await Promise.race([begun.value, left]);
  } finally {
    begun.waiting--;
    if (report) begun.reports.delete(report);
    if (begun.waiting === 0) begun.ending = setTimeout(() => end(key, begun), begun.graceMs).unref();
  }
}

/**
 * What is measured is kept until the part sounds otherwise; those who ask at the same time share one answer.
 * @param measure ends when its signal aborts, which it does soon after nobody waits any more
 * @param bytes how large it is, about
 * @param signal of the one who asks
 * @throws its reason when it aborts, and what `measure` throws
 */
export async function once<T>(
  key: string,
  measure: (signal: AbortSignal, report: Report) => Promise<T>,
  bytes: (value: T) => number,
  signal: AbortSignal,
  { report, graceMs = GRACE_MS }: Waiting = {},
): Promise<T> {
  signal.throwIfAborted();
  const before = known<T>(key);
  if (before !== undefined) return before;
  const begun = measuring().get(key) as Measuring<T> | undefined;
  return wait(key, begun ?? begin(key, measure, bytes, graceMs), signal, report);
}
