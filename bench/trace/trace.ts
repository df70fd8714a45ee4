import type { Page } from '@playwright/test';

/** One line of the browser's own trace. */
export interface TraceEvent {
  name: string;
  ph: string;
  ts: number;
  dur?: number;
  /** Time that the thread was running, not waiting for a core. */
  tdur?: number;
  tid: number;
}

/** What counts as script: everything in which the browser calls into it. */
export const SCRIPT: ReadonlySet<string> = new Set([
  'FireAnimationFrame',
  'EventDispatch',
  'TimerFire',
  'RunMicrotasks',
  'HandlePostMessage',
  'FunctionCall',
]);
/** What the main thread does besides, to bring a frame to the screen. */
export const DRAWING: ReadonlySet<string> = new Set(['UpdateLayoutTree', 'Layout', 'PrePaint', 'Paint', 'Layerize']);

/** Milliseconds of some work from one frame that the main thread hands on to the next; what is nested in another call is counted once. */
export function timePerFrame(
  events: readonly TraceEvent[],
  counted: ReadonlySet<string>,
): { wall: number[]; thread: number[] } {
  const frames = events.filter(({ name }) => name === 'Commit').sort((a, b) => a.ts - b.ts);
  const main = frames[0].tid;
  const calls = events
    .filter(({ name, ph, tid }) => ph === 'X' && tid === main && counted.has(name))
    .sort((a, b) => a.ts - b.ts);
  const wall = new Array<number>(frames.length).fill(0);
  const thread = new Array<number>(frames.length).fill(0);
  let [frame, end] = [0, 0];
  for (const { ts, dur = 0, tdur = dur } of calls) {
    while (frame + 1 < frames.length && frames[frame + 1].ts <= ts) frame++;
    if (ts < end || ts < frames[0].ts) continue;
    wall[frame] += dur / 1000;
    thread[frame] += tdur / 1000;
    end = ts + dur;
  }
  return { wall: wall.slice(1, -1), thread: thread.slice(1, -1) };
}

/** What the browser traces of a page meanwhile. */
export async function traced(page: Page, work: () => Promise<void>): Promise<TraceEvent[]> {
  const session = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  session.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await session.send('Tracing.start', {
    categories: 'devtools.timeline,disabled-by-default-devtools.timeline',
    transferMode: 'ReportEvents',
  });
  await work();
  const complete = new Promise((done) => session.once('Tracing.tracingComplete', done));
  await session.send('Tracing.end');
  await complete;
  await session.detach();
  return events;
}
