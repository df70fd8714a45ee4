import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { OwnServer } from '@/e2e/support/own-server';
import { seededRandom } from '@/core/formats';
import type { Job } from '@/server/jobs/job';
import { damaged } from '@/server/testing/damage';
import { table, tone } from './support';

/**
 * Files that are damaged at random, by seed, through the server's import and through the command line: `npm run bench -- fuzz [files of
 * each format] [seed]`. Whatever they hold: no crash, nothing that hangs, no failure that does not name its file, no more than 500 MB beside what the server holds at its start.
 */
const [count = 2000, seed = 1] = process.argv.slice(2).map(Number);
const PORT = 4878;
const TRACKS_A_SONG = 150;
const LONGEST_MS = 30_000;
const MOST_MEBIBYTES = 500;
/** Every so many files also go through the command line, which takes its time to begin. */
const EVERY = 20;
const AT_ONCE = 4;

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-fuzz-'));
const random = seededRandom(seed);
const faults: string[] = [];

/** Whole files of every format. */
function wholeFiles(): Record<string, Buffer> {
  const source = path.join(folder, 'whole.wav');
  writeFileSync(source, tone(440, 0.7));
  const made = (extension: string, ...args: string[]) => {
    const file = path.join(folder, `whole.${extension}`);
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', source, '-ac', '2', ...args, file]);
    return readFileSync(file);
  };
  return {
    'wav 16 bit': readFileSync(source),
    'wav 24 bit': made('24.wav', '-c:a', 'pcm_s24le'),
    'wav float': made('float.wav', '-c:a', 'pcm_f32le'),
    rf64: made('rf64.wav', '-c:a', 'pcm_s24le', '-rf64', 'always'),
    aiff: made('24.aiff', '-c:a', 'pcm_s24be'),
    flac: made('flac', '-c:a', 'flac'),
    mp3: made('mp3', '-c:a', 'libmp3lame'),
    vorbis: made('ogg', '-c:a', 'libvorbis'),
    opus: made('opus', '-c:a', 'libopus', '-ar', '48000'),
  };
}

const server = new OwnServer(PORT, path.join(folder, 'data'));
let songId = '';
let tracks = Infinity;

async function call<T>(pathname: string, init?: RequestInit): Promise<{ status: number; body: T }> {
  const response = await fetch(`${server.url}/api${pathname}`, { ...init, signal: AbortSignal.timeout(LONGEST_MS) });
  return { status: response.status, body: (await response.json()) as T };
}

/** @returns true where the file came in */
async function imported(name: string, bytes: Buffer): Promise<boolean> {
  const { status, body } = await call<{ job?: Job; error?: { message: string } }>(
    `/songs/${songId}/imports?name=${encodeURIComponent(name)}`,
    { method: 'POST', body: new Uint8Array(bytes) },
  );
  if (!body.job) {
    if (status >= 500) faults.push(`${name}: answered with ${status}: ${body.error?.message}`);
    return false;
  }
  const deadline = Date.now() + LONGEST_MS;
  for (;;) {
    const { job } = (await call<{ job: Job }>(`/jobs/${body.job.id}`)).body;
    if (job.state === 'done') return true;
    if (job.state !== 'running') {
      if (job.error?.code === 'internal' || !job.name.includes(name))
        faults.push(`${name}: failed as ${job.error?.code}: ${job.error?.message}`);
      return false;
    }
    if (Date.now() > deadline) {
      faults.push(`${name}: not done after ${LONGEST_MS / 1000} s`);
      return false;
    }
    await wait(10);
  }
}

/** The same file by the command line: it ends, with a sound or with an error that names the file. */
function applied(name: string, bytes: Buffer): void {
  const [input, output] = [path.join(folder, name), path.join(folder, 'out.wav')];
  writeFileSync(input, bytes);
  const { status, stderr } = spawnSync(
    '/usr/bin/python3',
    ['-c', LIMITED, process.execPath, 'build/cli.mjs', 'apply', path.join(folder, 'eq.json'), input, output],
    { encoding: 'utf8', timeout: 2 * LONGEST_MS },
  );
  const [, peak] = /peak (\d+)$/.exec(stderr.trim()) ?? [];
  if (status === null) faults.push(`${name}: the command line was not done in time`);
  else if (status !== 0 && (status !== 1 || !stderr.includes(name)))
    faults.push(`${name}: the command line ended with ${status}: ${stderr.slice(0, 200)}`);
  if (Number(peak) / 1024 > MOST_MEBIBYTES) faults.push(`${name}: the command line held ${peak} KiB`);
  rmSync(input);
}
const LIMITED =
  'import sys,resource,subprocess;c=subprocess.run(sys.argv[1:],stdout=subprocess.DEVNULL).returncode;print("peak",resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss,file=sys.stderr);sys.exit(c if c>=0 else 99)';

mkdirSync(path.join(folder, 'data'));
writeFileSync(
  path.join(folder, 'eq.json'),
  JSON.stringify({ format: 'orvid.eq', version: 1, bands: [{ type: 'bell', frequencyHz: 900, gainDb: 3, q: 1 }] }),
);
const rows: (string | number)[][] = [['format', 'files', 'came in', 'refused', 'seconds']];
try {
  await server.start();
  const idle = server.peakMebibytes;
  for (const [format, whole] of Object.entries(wholeFiles())) {
    const started = Date.now();
    let cameIn = 0;
    for (let first = 0; first < count; first += AT_ONCE) {
      if (tracks + AT_ONCE > TRACKS_A_SONG) {
        const { body } = await call<{ id: string }>('/songs', {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ title: format }),
        });
        songId = body.id;
        tracks = 0;
      }
      const files = Array.from({ length: Math.min(AT_ONCE, count - first) }, (_, i) => ({
        name: `${format.replace(' ', '-')}-${first + i}.bin`,
        bytes: damaged(whole, random),
      }));
      const results = await Promise.all(
        files.map(({ name, bytes }) =>
          imported(name, bytes).catch((error: Error) => {
            faults.push(`${name}: ${error.message}`);
            return false;
          }),
        ),
      );
      const now = results.filter(Boolean).length;
      cameIn += now;
      tracks += now;
      if (!server.isRunning) throw new Error(`The server has ended with ${files.map(({ name }) => name).join(', ')}.`);
      if (first % (AT_ONCE * EVERY) === 0) applied(files[0].name, files[0].bytes);
    }
    rows.push([format, count, cameIn, count - cameIn, ((Date.now() - started) / 1000).toFixed(0)]);
  }
  const held = server.peakMebibytes;
  if (held - idle > MOST_MEBIBYTES) faults.push(`The server held ${held.toFixed(0)} MiB, ${idle.toFixed(0)} idle.`);
  const memory = `The server held ${held.toFixed(0)} MiB at most, ${idle.toFixed(0)} when it had just started`;
  console.log(`${table(rows)}\n\n${memory}; ${faults.length} faults.`);
} finally {
  server.kill();
  rmSync(folder, { recursive: true });
}
for (const fault of faults) console.log(`- ${fault}`);
process.exitCode = faults.length === 0 ? 0 : 1;
