import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { percentile, table } from './support';

/**
 * A drag in the Register of the demo song (12 tracks): script time of each frame, from the browser's own trace, while a post is
 * dragged for three seconds; once stopped and once while it plays.
 */
const PORT = 4873;
const server = spawn(process.execPath, ['scripts/demo.mjs'], {
  stdio: 'ignore',
  env: { ...process.env, ORVID_PORT: String(PORT), ORVID_DATA_DIR: mkdtempSync(path.join(os.tmpdir(), 'orvid-drag-')) },
});
const isUp = () =>
  fetch(`http://localhost:${PORT}/api/songs`).then(
    (response) => response.ok,
    () => false,
  );
while (!(await isUp())) await new Promise((done) => setTimeout(done, 300));

const browser = await chromium.launch({
  executablePath: process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu', '--autoplay-policy=no-user-gesture-required'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(`http://localhost:${PORT}/`);
await page.getByText(/kHz · engine/).waitFor({ timeout: 60_000 });

interface TraceEvent {
  name: string;
  ph: string;
  ts: number;
  dur?: number;
  /** Time that the thread was running, not waiting for a core. */
  tdur?: number;
  tid: number;
}

/** What counts as script: everything in which the browser calls into it. Layout and painting are not. */
const SCRIPT = new Set([
  'FireAnimationFrame',
  'EventDispatch',
  'TimerFire',
  'RunMicrotasks',
  'HandlePostMessage',
  'FunctionCall',
]);

/** Milliseconds of script from one frame that the main thread hands on to the next; what is nested in another call is counted once. */
function scriptPerFrame(events: readonly TraceEvent[]): { wall: number[]; thread: number[] } {
  const frames = events.filter(({ name }) => name === 'Commit').sort((a, b) => a.ts - b.ts);
  const main = frames[0].tid;
  const calls = events
    .filter(({ name, ph, tid }) => ph === 'X' && tid === main && SCRIPT.has(name))
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

/** Drags the post of the lead voice to and fro for three seconds, with a trace of what the main thread does. */
async function dragged(): Promise<{ wall: number[]; thread: number[] }> {
  const box = (await page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' }).boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const session = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  session.on('Tracing.dataCollected', ({ value }) => events.push(...(value as unknown as TraceEvent[])));
  await page.mouse.move(x, y);
  await page.mouse.down();
  await session.send('Tracing.start', {
    categories: 'devtools.timeline,disabled-by-default-devtools.timeline',
    transferMode: 'ReportEvents',
  });
  const started = Date.now();
  for (let i = 0; Date.now() - started < 3000; i++) await page.mouse.move(x + 80 * Math.sin(i / 12), y);
  const complete = new Promise((done) => session.once('Tracing.tracingComplete', done));
  await session.send('Tracing.end');
  await complete;
  await page.mouse.up();
  await session.detach();
  return scriptPerFrame(events);
}

const rows: (string | number)[][] = [
  ['while', 'frames', 'script p50 ms', 'script p95 ms', 'waiting included: p50', 'p95', 'worst'],
];
const row = (name: string, { wall, thread }: { wall: number[]; thread: number[] }) =>
  rows.push([
    name,
    wall.length,
    ...[
      percentile(thread, 0.5),
      percentile(thread, 0.95),
      percentile(wall, 0.5),
      percentile(wall, 0.95),
      Math.max(...wall),
    ].map((ms) => ms.toFixed(2)),
  ]);
await dragged();
row('stopped', await dragged());
await page.keyboard.press('Space');
await page.waitForTimeout(500);
row('playing', await dragged());
await browser.close();
server.kill();
console.log(`Script time for each frame while a post is dragged, 12 tracks, 1280 × 800.\n\n${table(rows)}`);
process.exit(0);
