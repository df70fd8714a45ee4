import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { OwnServer } from '@/e2e/support/own-server';
import { seededRandom } from '@/core/formats';
import type { Song } from '@/core/song';
import { plainOrder } from '@/core/renders';
import type { Job } from '@/server/jobs/job';
import { tone } from './support';

/**
 * A server that is killed amid edits, imports and renders, again and again: `npm run bench -- kill [times] [seed]`. After each start it must
 * know every edit that it has acknowledged, answer for every job that it has taken, and show nothing half-made.
 */
const [times = 200, seed = 1] = process.argv.slice(2).map(Number);
const PORT = 4879;
const LONGEST_LIFE_MS = 2500;

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-kill-'));
const server = new OwnServer(PORT, folder);
const random = seededRandom(seed);
const faults: string[] = [];
const counts = { edits: 0, jobs: 0, imported: 0, renders: 0, takenUp: 0 };

async function call<T>(pathname: string, init?: RequestInit): Promise<T> {
  const response = await fetch(`${server.url}/api${pathname}`, init);
  const body = (await response.json()) as T;
  if (!response.ok) throw new Error(`${pathname}: ${response.status} ${JSON.stringify(body)}`);
  return body;
}
const post = <T>(pathname: string, body: unknown) =>
  call<T>(pathname, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });

/** What the server has acknowledged, and what it was asked for without an answer. */
interface Known {
  songId: string;
  acknowledged: number;
  asked: number;
  jobs: Map<string, Job['state']>;
}

/** Edits, imports and renders at once, until the server is gone. */
async function work(known: Known): Promise<void> {
  const { songId } = known;
  const untilGone = async (step: () => Promise<void>) => {
    for (;;) {
      try {
        await step();
      } catch {
        if (!server.isRunning) return;
        await wait(20);
      }
    }
  };
  await Promise.all([
    untilGone(async () => {
      const number = ++known.asked;
      const edit = { kind: 'song.set', changes: { title: `${number}` } };
      const { outcomes } = await post<{ outcomes: { refused?: unknown }[] }>(`/songs/${songId}/edits`, {
        clientId: 'kill',
        edits: [{ id: `edit-${number}`, edit }],
      });
      if (outcomes.length !== 1) throw new Error('no outcome');
      known.acknowledged = number;
      counts.edits++;
      await wait(5 + 20 * random());
    }),
    untilGone(async () => {
      const number = counts.jobs;
      const { job } = await call<{ job: Job }>(`/songs/${songId}/imports?name=tone-${number}.wav`, {
        method: 'POST',
        body: new Uint8Array(tone(100 + number, 1 + 3 * random())),
      });
      known.jobs.set(job.id, job.state);
      counts.jobs++;
      await wait(100 + 200 * random());
    }),
    untilGone(async () => {
      const settings = { ...plainOrder.settings, bits: '16', tailSeconds: 0 };
      const { jobs } = await post<{ jobs: Job[] }>(`/songs/${songId}/renders`, { ...plainOrder, settings });
      for (const job of jobs) known.jobs.set(job.id, job.state);
      counts.jobs += jobs.length;
      await wait(200 + 400 * random());
    }),
  ]);
}

const isUnderway = (state: Job['state']) => state === 'running' || state === 'waiting';

/** What must hold after a start. */
async function examine({ songId, acknowledged, asked, jobs }: Known): Promise<void> {
  const imported: Job[] = [];
  for (const [id, before] of jobs) {
    const { job } = await call<{ job: Job | null }>(`/jobs/${id}`);
    if (!job) faults.push(`Job ${id} is not known.`);
    else if (job.state === 'failed') faults.push(`Job ${id} (${job.name}) has failed: ${job.error?.message}.`);
    else if (!isUnderway(before) && job.state !== before) faults.push(`Job ${id} was ${before} and is ${job.state}.`);
    else if (isUnderway(job.state)) counts.takenUp++;
    else if (job.kind === 'import') imported.push(job);
    else if (isUnderway(before)) await examineRender(job);
    if (job) jobs.set(id, job.state);
  }
  const { song } = await call<{ song: Song }>(`/songs/${songId}`);
  const title = Number(song.title);
  if (!(title >= acknowledged && title <= asked))
    faults.push(`The title is “${song.title}”, acknowledged was ${acknowledged}, asked for ${asked}.`);
  for (const { id, resultId } of imported)
    if (!song.tracks.some((track) => track.id === resultId)) faults.push(`Job ${id} is done without a track.`);
  for (const track of song.tracks) {
    const page = await fetch(`${server.url}/api/pages/${track.audioId}.0-0`);
    if (page.status !== 200) faults.push(`${track.name}: its first piece is answered with ${page.status}.`);
    await page.arrayBuffer();
  }
}

async function examineRender({ id, resultId }: Job): Promise<void> {
  const response = await fetch(`${server.url}/api/renders/${resultId}`);
  const bytes = Buffer.from(await response.arrayBuffer());
  const isWhole = response.status === 200 && bytes.readUInt32LE(4) + 8 === bytes.length;
  if (!isWhole) faults.push(`The render of job ${id} is answered with ${response.status} and ${bytes.length} bytes.`);
  counts.renders++;
}

async function settled({ jobs }: Known): Promise<void> {
  const deadline = Date.now() + 120_000;
  for (const id of jobs.keys()) {
    for (;;) {
      const { job } = await call<{ job: Job }>(`/jobs/${id}`);
      if (!isUnderway(job.state)) break;
      if (Date.now() > deadline) throw new Error(`Job ${id} (${job.name}) does not end.`);
      await wait(50);
    }
  }
}

/** A song of its own for so many kills, since it fills with tracks. */
const KILLS_A_SONG = 20;
try {
  let known: Known | undefined;
  for (let kill = 0; kill < times; kill++) {
    await server.start();
    if (known) await examine(known);
    if (!known || kill % KILLS_A_SONG === 0) {
      if (known) counts.imported += (await call<{ song: Song }>(`/songs/${known.songId}`)).song.tracks.length;
      const { id } = await post<{ id: string }>('/songs', { title: '0', rateHz: 48000 });
      known = { songId: id, acknowledged: 0, asked: 0, jobs: new Map() };
    }
    const working = work(known);
    await wait(LONGEST_LIFE_MS * random());
    server.kill();
    await working;
  }
  await server.start();
  await settled(known!);
  await examine(known!);
  counts.imported += (await call<{ song: Song }>(`/songs/${known!.songId}`)).song.tracks.length;
  await server.stop();
  const left = readdirSync(path.join(folder, 'incoming'));
  if (left.length > 0) faults.push(`Left in the folder of what comes in: ${left.join(', ')}.`);
  console.log(
    execFileSync(process.execPath, ['build/cli.mjs', 'check'], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
      env: { ...process.env, ORVID_DATA_DIR: folder },
    }),
  );
} finally {
  server.kill();
}
rmSync(folder, { recursive: true });
const { edits, jobs, imported, renders, takenUp } = counts;
console.log(
  `${times} kills: ${edits} edits acknowledged, ${jobs} jobs taken (seen running after a start: ${takenUp}), ${imported} tracks imported, ${renders} renders read; ${faults.length} faults.`,
);
for (const fault of faults) console.log(`- ${fault}`);
process.exitCode = faults.length === 0 ? 0 : 1;
