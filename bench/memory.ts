import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { chromium } from '@playwright/test';
import { CHROMIUM, CHROMIUM_FLAGS } from '@/e2e/support/environment';
import { OwnServer } from '@/e2e/support/own-server';
import type { Job } from '@/server/jobs/job';
import { table } from './support';

/**
 * What a page holds of a real song while it plays: so many stereo recordings of so many minutes, all different: `npm run bench -- memory [tracks]
 * [minutes] [seconds]`. Resident memory of the page's process as the system counts it, against that of an empty song.
 */
const [tracks = 32, minutes = 5, seconds = 90] = process.argv.slice(2).map(Number);
const PORT = 4877;
const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-memory-'));
const server = new OwnServer(PORT, path.join(folder, 'data'));

/** Resident memory of the largest of the browser's page processes, MiB. */
function pageMebibytes(): number {
  const sizes = readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .map((pid) => {
      try {
        if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) return 0;
        return Number(/VmRSS:\s*(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;
      } catch {
        return 0; // it has ended meanwhile
      }
    });
  return Math.max(0, ...sizes);
}

async function call<T>(pathname: string, init?: RequestInit): Promise<T> {
  return (await (await fetch(`${server.url}/api${pathname}`, init)).json()) as T;
}
const newSong = (title: string) =>
  call<{ id: string }>('/songs', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ title }),
  });

async function imported(songId: string, number: number): Promise<void> {
  const file = path.join(folder, 'noise.wav');
  const length = String(60 * minutes);
  execFileSync('sox', [
    '-R',
    '-n',
    '-r',
    '48000',
    '-c',
    '2',
    '-b',
    '24',
    file,
    'synth',
    length,
    'pinknoise',
    'vol',
    `${0.2 + number / 1000}`,
  ]);
  const { job } = await call<{ job: Job }>(`/songs/${songId}/imports?name=noise-${number}.wav`, {
    method: 'POST',
    body: new Uint8Array(readFileSync(file)),
  });
  for (;;) {
    const { state, error } = (await call<{ job: Job }>(`/jobs/${job.id}`)).job;
    if (state === 'done') return;
    if (state !== 'running') throw new Error(error?.message);
    await wait(200);
  }
}

try {
  await server.start();
  const [empty, full] = [await newSong('Empty'), await newSong('Full')];
  for (let number = 0; number < tracks; number++) await imported(full.id, number);
  const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_FLAGS });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const opened = async (songId: string) => {
    await page.goto(`${server.url}/songs/${songId}`);
    await page.getByText(/engine \d+ %/).waitFor();
    await wait(5000);
    return pageMebibytes();
  };
  const ofEmpty = await opened(empty.id);
  const rows: (string | number)[][] = [['', 'page, MiB', 'above an empty song']];
  const add = (what: string, held: number) => rows.push([what, held.toFixed(0), (held - ofEmpty).toFixed(0)]);
  add('an empty song', ofEmpty);
  add(`${tracks} stereo tracks of ${minutes} minutes, opened`, await opened(full.id));
  const position = page.getByText(/engine \d+ %/);
  await page.keyboard.press('Space');
  let played = 0;
  for (const until of [0.1, 0.25, 0.5, 0.75, 1].map((share) => share * seconds)) {
    await wait((until - played) * 1000);
    played = until;
    add(`${Math.round(until)} s played`, pageMebibytes());
  }
  console.log(`${table(rows)}\n\nAt the end the foot says: ${await position.first().textContent()}`);
  await browser.close();
} finally {
  server.kill();
  rmSync(folder, { recursive: true });
}
