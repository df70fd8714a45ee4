import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { OwnServer } from '@/e2e/support/own-server';
import type { Song } from '@/core/song';
import type { Job } from '@/server/jobs/job';
import { median, table, tone } from './support';

/**
 * How long a person waits while fifty imports go on: a song is opened, an edit is saved, a recording's suspects are looked for, a second of the mix is
 * measured, each some times, with nothing else to do and amid the imports.
 */
const IMPORTS = 50;
const ROUNDS = 7;
const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-queue-'));
const server = new OwnServer(4876, path.join(folder, 'data'));

async function call<T>(pathname: string, init?: RequestInit): Promise<T> {
  const response = await fetch(`${server.url}/api${pathname}`, init);
  if (!response.ok) throw new Error(`${pathname}: ${response.status}`);
  return (await response.json()) as T;
}
const post = <T>(pathname: string, body: unknown) =>
  call<T>(pathname, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
/** Files are made before any of them is sent: that takes long, and connections that nobody uses are closed meanwhile. */
async function uploaded(songId: string, count: number, firstHz: number, seconds: number): Promise<Job[]> {
  const files = Array.from({ length: count }, (_, i) => new Uint8Array(tone(firstHz + i, seconds)));
  await new Promise((done) => setTimeout(done, 100));
  const send = (body: Uint8Array<ArrayBuffer>, i: number) =>
    call<{ job: Job }>(`/songs/${songId}/imports?name=tone-${firstHz + i}.wav`, { method: 'POST', body });
  return (await Promise.all(files.map(send))).map(({ job }) => job);
}
const stateOf = async ({ id }: Job) => (await call<{ job: Job }>(`/jobs/${id}`)).job.state;

let edits = 0;
/** Seconds that each thing takes, by its name; each recording's suspects are looked for once only, so each round has one of its own. */
async function waits(song: { id: string; song: Song }, round: number): Promise<Record<string, number>> {
  const track = song.song.tracks[round];
  const steps: Record<string, () => Promise<unknown>> = {
    'a song is opened': () => call(`/songs/${song.id}`),
    'an edit is saved': () => {
      const edit = { kind: 'song.set', changes: { title: `Queue ${++edits}` } };
      return post(`/songs/${song.id}/edits`, { clientId: 'queue', edits: [{ id: `edit-${edits}`, edit }] });
    },
    'suspects of ten seconds': () => call(`/audio/${track.audioId}/suspects`),
    'a second of a track, measured': () => call(`/songs/${song.id}/measure?strip=${track.id}&from=0&to=1`),
  };
  const seconds: Record<string, number> = {};
  for (const [name, step] of Object.entries(steps)) {
    const began = performance.now();
    await step();
    seconds[name] = (performance.now() - began) / 1000;
  }
  return seconds;
}

try {
  await server.start();
  const { id } = await post<{ id: string }>('/songs', { title: 'Queue' });
  const own = await uploaded(id, 2 * ROUNDS, 100, 10);
  while ((await Promise.all(own.map(stateOf))).includes('running')) await new Promise((done) => setTimeout(done, 100));
  const song = { id, song: (await call<{ song: Song }>(`/songs/${id}`)).song };
  const alone: Record<string, number>[] = [];
  for (let round = 0; round < ROUNDS; round++) alone.push(await waits(song, round));
  const other = await post<{ id: string }>('/songs', { title: 'Imports' });
  const imports = await uploaded(other.id, IMPORTS, 1000, 120);
  const amid: Record<string, number>[] = [];
  for (let round = ROUNDS; round < 2 * ROUNDS; round++) amid.push(await waits(song, round));
  const running = (await Promise.all(imports.map(stateOf))).filter((state) => state === 'running').length;
  const of = (list: Record<string, number>[], name: string) => list.map((seconds) => seconds[name]);
  console.log(
    table([
      ['seconds', 'alone, median', `amid ${IMPORTS} imports, median`, 'the longest'],
      ...Object.keys(alone[0]).map((name) => [
        name,
        median(of(alone, name)).toFixed(3),
        median(of(amid, name)).toFixed(3),
        Math.max(...of(amid, name)).toFixed(3),
      ]),
    ]),
  );
  console.log(`\nAt the end ${running} of the imports were still under way.`);
} finally {
  server.kill();
  rmSync(folder, { recursive: true });
}
