import { spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { percentile, table } from './support';

/**
 * A drag in the Register of the demo song (12 tracks): script time of each frame, as the browser counts it (ScriptDuration of its
 * performance metrics and the trace of its tasks), while a post is dragged for three seconds; once in silence and once while it plays.
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

interface Frames {
  scriptMs: number[];
  frames: number;
}

/** Drags the post of the lead voice to and fro; the page adds up the time that scripts take between two frames. */
async function dragged(): Promise<Frames> {
  const post = page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' });
  const box = (await post.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable', { timeDomain: 'timeTicks' });
  const read = async () => {
    const { metrics } = await session.send('Performance.getMetrics');
    const of = (name: string) => metrics.find((metric) => metric.name === name)!.value;
    return { script: of('ScriptDuration') * 1000, at: of('Timestamp') };
  };
  await page.evaluate(() => {
    const state = { count: 0 };
    (window as unknown as { frames: typeof state }).frames = state;
    const tick = () => {
      state.count++;
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  });
  const count = () => page.evaluate(() => (window as unknown as { frames: { count: number } }).frames.count);
  const scriptMs: number[] = [];
  let before = await read();
  let framesBefore = await count();
  const first = framesBefore;
  for (let i = 0; i < 90; i++) {
    await page.mouse.move(x + 80 * Math.sin(i / 8), y, { steps: 2 });
    const [now, framesNow] = [await read(), await count()];
    if (framesNow > framesBefore) scriptMs.push((now.script - before.script) / (framesNow - framesBefore));
    [before, framesBefore] = [now, framesNow];
  }
  await page.mouse.up();
  await session.detach();
  return { scriptMs, frames: framesBefore - first };
}

const rows: (string | number)[][] = [['while', 'frames', 'script p50 ms', 'script p95 ms', 'worst ms']];
const row = (name: string, { scriptMs, frames }: Frames) =>
  rows.push([
    name,
    frames,
    percentile(scriptMs, 0.5).toFixed(2),
    percentile(scriptMs, 0.95).toFixed(2),
    Math.max(...scriptMs).toFixed(2),
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
