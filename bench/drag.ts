import { spawn } from 'node:child_process';
import { chromium, type Locator } from '@playwright/test';
import { SONGS_TAKEN } from '@/audio/shared-state';
import type { Song } from '@/core/song';
import { temporaryFolder } from '@/e2e/support/folder';
import { toAndFro } from './mouse';
import { percentile, table } from './support';
import { SCRIPT, timePerFrame, traced } from './trace/trace';

/**
 * A drag: script time of each frame, from the browser's own trace, while a post is dragged for three seconds in the Register of the demo
 * song (12 tracks), and a bell on the bench with 48 tracks in lanes and in company; what is allocated meanwhile; and the time from the
 * pointer to the coefficients. The pointer moves 125 times a second, as a mouse does, whether the page keeps up or not.
 *
 * `ORVID_BENCH_ROOT` measures another checkout of the project, to be set beside this one.
 */
const PORT = 4873;
const server = spawn(process.execPath, ['scripts/demo.mjs'], {
  cwd: process.env.ORVID_BENCH_ROOT ?? process.cwd(),
  stdio: 'ignore',
  env: { ...process.env, ORVID_PORT: String(PORT), ORVID_DATA_DIR: temporaryFolder('orvid-drag') },
});
const isUp = () =>
  fetch(`http://localhost:${PORT}/api/songs`).then(
    (response) => response.ok,
    () => false,
  );
while (!(await isUp())) await new Promise((done) => setTimeout(done, 300));

const browser = await chromium.launch({
  executablePath: process.env.ORVID_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--autoplay-policy=no-user-gesture-required',
    '--enable-precise-memory-info',
  ],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, bypassCSP: true });
await page.addInitScript(() => {
  const Plain = window.AudioWorkletNode;
  window.AudioWorkletNode = class extends Plain {
    constructor(context: BaseAudioContext, name: string, options?: AudioWorkletNodeOptions) {
      super(context, name, options);
      Object.assign(window, { orvidState: (options?.processorOptions as { state: SharedArrayBuffer }).state });
    }
  };
});
const open = async (songId: string) => {
  await page.goto(`http://localhost:${PORT}/songs/${songId}`);
  await page.getByText(/kHz · engine/).waitFor({ timeout: 60_000 });
};

/** Counts what is allocated from frame to frame: rises of the used heap; what is collected in between is not seen, so it is a lower bound. */
async function watchHeap(): Promise<() => Promise<number>> {
  await page.evaluate(() => {
    const heap = () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize;
    const seen = { rises: [] as number[], last: heap(), isOver: false };
    const look = () => {
      const now = heap();
      if (now > seen.last) seen.rises.push(now - seen.last);
      seen.last = now;
      if (!seen.isOver) requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
    Object.assign(window, { orvidHeap: seen });
  });
  return () =>
    page.evaluate(() => {
      const { orvidHeap } = window as unknown as { orvidHeap: { rises: number[]; isOver: boolean } };
      orvidHeap.isOver = true;
      const sorted = orvidHeap.rises.sort((a, b) => a - b);
      return (sorted[Math.floor(sorted.length / 2)] ?? 0) / 1024;
    });
}

/** A drag with a trace of what the main thread does. */
async function dragged(handle: Locator): Promise<{ wall: number[]; thread: number[]; allocatedKib: number }> {
  let allocatedKib = 0;
  const events = await traced(page, async () => {
    const heap = await watchHeap();
    await toAndFro(page, handle);
    allocatedKib = await heap();
  });
  return { ...timePerFrame(events, SCRIPT), allocatedKib };
}

/**
 * A drag with the times at which the audio thread takes the next state of the song: a second thread looks at its count every half
 * millisecond. @returns ms from the first move of the pointer that each of them answers
 */
async function latencies(handle: Locator): Promise<number[]> {
  await page.evaluate((index) => {
    const watch = `
      onmessage = ({ data: { state, index } }) => {
        const values = new Float64Array(state);
        const pause = new Int32Array(new SharedArrayBuffer(4));
        const taken = [];
        let seen = values[index];
        const end = Date.now() + 3500;
        while (Date.now() < end) {
          if (values[index] !== seen) {
            seen = values[index];
            taken.push(performance.timeOrigin + performance.now());
          }
          Atomics.wait(pause, 0, 0, 0.5);
        }
        postMessage(taken);
      };`;
    const worker = new Worker(URL.createObjectURL(new Blob([watch])));
    const moves: number[] = [];
    window.addEventListener('pointermove', (event) => moves.push(performance.timeOrigin + event.timeStamp), true);
    const { orvidState } = window as unknown as { orvidState: SharedArrayBuffer };
    worker.postMessage({ state: orvidState, index });
    const taken = new Promise<number[]>((done) => (worker.onmessage = ({ data }) => done(data as number[])));
    Object.assign(window, { orvidLatencies: { moves, taken } });
  }, SONGS_TAKEN);
  await toAndFro(page, handle);
  return page.evaluate(async () => {
    const { moves, taken } = (window as unknown as { orvidLatencies: { moves: number[]; taken: Promise<number[]> } })
      .orvidLatencies;
    const times = await taken;
    // Of a state that no move came before there is nothing to tell: it is the same one again, as the frame shows it.
    return times.flatMap((time, i) => {
      const move = moves.find((move) => move < time && move > (times[i - 1] ?? 0));
      return move === undefined ? [] : [time - move];
    });
  });
}

const rows: (string | number)[][] = [
  ['while', 'frames', 'script p50 ms', 'script p95 ms', 'waiting included: p50', 'p95', 'worst', 'KiB a frame'],
];
const row = (name: string, { wall, thread, allocatedKib }: Awaited<ReturnType<typeof dragged>>) =>
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
    allocatedKib.toFixed(0),
  ]);
await open('lantern-ferry');
const post = page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' });
await dragged(post);
row('a post, 12 tracks, stopped', await dragged(post));
await page.keyboard.press('Space');
await page.waitForTimeout(500);
row('the same, playing', await dragged(post));
const lateOf12 = await latencies(post);

const api = async (path: string, body?: unknown) => {
  const answer = await fetch(`http://localhost:${PORT}/api/songs/${path}`, {
    method: body === undefined ? 'GET' : 'POST',
    headers: { 'content-type': 'application/json' },
    ...(body !== undefined && { body: JSON.stringify(body) }),
  });
  return (await answer.json()) as { id: string; song: Song };
};
const { id: largeId } = await api('lantern-ferry/duplicate', {});
const { song } = await api(largeId);
const copies = [1, 2, 3].flatMap((copy) =>
  song.tracks.map((track) => ({ ...track, id: `${track.id}-${copy}`, name: `${track.name} ${copy + 1}` })),
);
await api(`${largeId}/edits`, {
  clientId: 'bench',
  edits: copies.map((track, i) => ({ id: `copy-${i}`, edit: { kind: 'track.add', track, index: 12 + i } })),
});
await open(largeId);
await page.getByRole('button', { name: /^B Bell/ }).click();
await page.keyboard.press('Alt+4');
await page.getByRole('button', { name: 'All of them', exact: true }).click();
const cap = page.locator('[data-testid="band-B"] [data-part="cap"] .cap');
await dragged(cap);
row('a bell, 48 tracks in lanes and company, stopped', await dragged(cap));
await page.getByRole('heading', { name: 'Register' }).click();
await page.keyboard.press('Space');
await page.waitForTimeout(500);
row('the same, playing', await dragged(cap));
const lateOf48 = await latencies(cap);
await browser.close();
server.kill();
console.log(`Script time for each frame while something is dragged, 1280 × 800.\n\n${table(rows)}`);
const lateRow = (name: string, late: number[]) => [
  name,
  late.length,
  percentile(late, 0.5).toFixed(1),
  percentile(late, 0.95).toFixed(1),
];
console.log(
  `\nFrom the pointer to the coefficients of the audio thread, playing.\n\n${table([
    ['song', 'changes', 'median ms', '95 % below ms'],
    lateRow('12 tracks', lateOf12),
    lateRow('48 tracks in lanes and company', lateOf48),
  ])}`,
);
process.exit(0);
