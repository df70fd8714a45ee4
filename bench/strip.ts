import { rmSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { newPassage } from '@/core/passages';
import type { Passage, Song } from '@/core/song';
import { CHROMIUM, CHROMIUM_FLAGS, newDataFolder } from '@/e2e/support/environment';
import { OwnServer } from '@/e2e/support/own-server';
import { percentile, table } from './support';
import { DRAWING, SCRIPT, timePerFrame, traced } from './trace/trace';

/**
 * What the song strip costs while it is zoomed and scrolled by the wheel, sixty turns a second: the main thread's time for each frame, script
 * and what the browser does to draw it, from its own trace. The demo as it is, and with 60, 140 and 500 passages.
 */
const TURNS = 180;
/** The server takes so many at once. */
const MOST_EDITS = 200;

const folder = newDataFolder();
const server = new OwnServer(4874, folder);
await server.start();
const browser = await chromium.launch({ executablePath: CHROMIUM, args: [...CHROMIUM_FLAGS] });

try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const api = async <T>(url: string, data?: unknown): Promise<T> => {
    const answer = await (data === undefined
      ? page.request.get(`${server.url}/api/songs${url}`)
      : page.request.post(`${server.url}/api/songs${url}`, { data }));
    if (!answer.ok()) throw new Error(`${url}: ${await answer.text()}`);
    return (await answer.json()) as T;
  };

  /** A copy of the demo with so many passages, in up to three rows all over it. */
  const songWith = async (count: number): Promise<string> => {
    const { id } = await api<{ id: string }>('/lantern-ferry/duplicate', {});
    const { song } = await api<{ song: Song }>(`/${id}`);
    const seconds = song.tracks[0].lengthFrames / song.rateHz;
    const apart = seconds / Math.max(1, count);
    const passages = Array.from({ length: count }, (_, i): Passage => ({
      ...newPassage(`p${i}`, `Passage ${i}`, i * apart, Math.min(seconds, (i + 2.4) * apart)),
      fadeInSeconds: apart / 3,
      changes: [
        {
          figure: { stripId: song.tracks[i % song.tracks.length].id, of: 'strip', partId: '', field: 'gainDb' },
          value: -3,
          points: [],
        },
      ],
    }));
    for (let from = 0; from < count; from += MOST_EDITS) {
      const some = passages.slice(from, from + MOST_EDITS);
      const edits = some.map((passage, i) => ({
        id: passage.id,
        edit: { kind: 'passage.add', passage, index: from + i },
      }));
      await api(`/${id}/edits`, { clientId: 'bench', edits });
    }
    return id;
  };

  const rows: (string | number)[][] = [['song', 'frames', 'script p50 ms', 'p95', 'drawing p50', 'p95', 'both p95']];
  const open = async (id: string) => {
    await page.goto(`${server.url}/songs/${id}`);
    await page.getByText(/kHz · engine/).waitFor({ timeout: 60_000 });
    await page.waitForTimeout(4000);
  };
  // A server that has just started measures the song that is opened first, and the page draws what comes in.
  await open('lantern-ferry');
  for (const count of [0, 60, 140, 500]) {
    await open(await songWith(count));
    const box = (await page.getByTestId('song-strip').boundingBox())!;
    const place = { x: box.x + box.width / 2, y: box.y + 40 };
    await page.mouse.move(place.x, place.y);
    const session = await page.context().newCDPSession(page);
    const turn = async () => {
      const began = performance.now();
      const sent: Promise<unknown>[] = [];
      for (let i = 0; i < TURNS; i++) {
        // In, along, out and back, again and again; no turn waits for what the page makes of the one before.
        const phase = Math.floor(i / 30) % 4;
        const deltaX = phase === 1 ? 30 : phase === 3 ? -30 : 0;
        const deltaY = phase === 0 ? -24 : phase === 2 ? 24 : 0;
        sent.push(session.send('Input.dispatchMouseEvent', { type: 'mouseWheel', ...place, deltaX, deltaY }));
        const wait = began + ((i + 1) * 1000) / 60 - performance.now();
        if (wait > 0) await new Promise((done) => setTimeout(done, wait));
      }
      await Promise.all(sent);
    };
    await turn();
    const events = await traced(page, turn);
    const [script, drawing] = [SCRIPT, DRAWING].map((counted) => timePerFrame(events, counted).thread);
    rows.push([
      count === 0 ? 'the demo' : `the demo with ${count} passages`,
      script.length,
      percentile(script, 0.5).toFixed(2),
      percentile(script, 0.95).toFixed(2),
      percentile(drawing, 0.5).toFixed(2),
      percentile(drawing, 0.95).toFixed(2),
      percentile(
        script.map((ms, i) => ms + drawing[i]),
        0.95,
      ).toFixed(2),
    ]);
  }
  console.log(`The song strip zoomed and scrolled by the wheel, 1280 × 800, main thread.\n\n${table(rows)}`);
} finally {
  await browser.close();
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);
