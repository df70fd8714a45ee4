import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { setTimeout as wait } from 'node:timers/promises';
import {
  PAGE_FRAMES,
  packedBytes,
  packSamples,
  PIECE_FRAMES,
  PIECES_OF_PAGE,
  unpackSamples,
  type SampleBits,
} from '@/core/engine';
import { PcmEncoder, seededRandom, wavHeader, type RenderFormat } from '@/core/formats';
import type { Song } from '@/core/song';
import { OwnServer } from '@/e2e/support/own-server';
import { median, table } from './support';

/**
 * How fast sound comes from the server, by the bits that it is kept in: five stereo recordings of two minutes in each, fetched from first to last as the page does it (four
 * pages in a request, two requests at a time), five times in turns; and what unpacking costs: `npm run bench -- pages`.
 */
const FORMATS: readonly RenderFormat[] = ['16', '24', '32f'];
const RECORDINGS = 5;
const SECONDS = 120;
const ROUNDS = 5;
const RATE_HZ = 48000;
const FRAMES = SECONDS * RATE_HZ;
const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-pages-'));
const server = new OwnServer(4879, folder);

function noise(format: RenderFormat, seed: number): Blob {
  const random = seededRandom(seed);
  const sides = [0, 1].map(() => Float64Array.from({ length: FRAMES }, () => 0.5 * random() - 0.25));
  const header = wavHeader({ channels: 2, rateHz: RATE_HZ, format, frames: FRAMES });
  return new Blob([Uint8Array.from(header), Uint8Array.from(new PcmEncoder(2, format).encode(sides, FRAMES))]);
}

async function call<T>(pathname: string, init?: RequestInit): Promise<T> {
  const response = await fetch(`${server.url}/api${pathname}`, init);
  if (!response.ok) throw new Error(`${pathname}: ${response.status} ${await response.text()}`);
  return (await response.json()) as T;
}

const lastPieceOf = (page: number) => Math.min((page + 1) * PIECES_OF_PAGE, Math.ceil(FRAMES / PIECE_FRAMES)) - 1;

/** @returns the pages of recordings of a format, as requests name them */
async function imported(format: RenderFormat): Promise<string[]> {
  const headers = { 'content-type': 'application/json' };
  const { id } = await call<{ id: string }>('/songs', {
    method: 'POST',
    headers,
    body: JSON.stringify({ title: 'P' }),
  });
  for (let i = 0; i < RECORDINGS; i++)
    await call(`/songs/${id}/imports?name=${i}.wav`, { method: 'POST', body: noise(format, i + 1) });
  for (;;) {
    const { song } = await call<{ song: Song }>(`/songs/${id}`);
    if (song.tracks.length === RECORDINGS)
      return Array.from({ length: Math.ceil(FRAMES / PAGE_FRAMES) }, (_, page) =>
        song.tracks.map(({ audioId }) => `${audioId}.${page * PIECES_OF_PAGE}-${lastPieceOf(page)}`),
      ).flat();
    await wait(200);
  }
}

const cpuSeconds = () => {
  const fields = readFileSync(`/proc/${server.pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
};

async function fetchAll(pages: readonly string[]): Promise<{ seconds: number; bytes: number; cpu: number }> {
  const left = Array.from({ length: Math.ceil(pages.length / 4) }, (_, i) => pages.slice(4 * i, 4 * i + 4));
  let bytes = 0;
  const [began, cpu] = [performance.now(), cpuSeconds()];
  const line = async () => {
    for (let next = left.shift(); next; next = left.shift())
      bytes += (await (await fetch(`${server.url}/api/pages/${next.join()}`)).arrayBuffer()).byteLength;
  };
  await Promise.all([line(), line()]);
  return { seconds: (performance.now() - began) / 1000, bytes, cpu: cpuSeconds() - cpu };
}

function unpackNanoseconds(bits: SampleBits): number {
  const samples = Float32Array.from({ length: PAGE_FRAMES }, (_, n) => (((n * 7919) % 60000) - 30000) / 32768);
  const packed = packSamples(samples, bits)!;
  const times = Array.from({ length: 300 }, () => {
    const began = performance.now();
    unpackSamples(packed, bits, samples);
    return performance.now() - began;
  });
  return (median(times) / PAGE_FRAMES) * 1e6;
}

try {
  await server.start();
  const pages: string[][] = [];
  for (const format of FORMATS) pages.push(await imported(format));
  const runs: Awaited<ReturnType<typeof fetchAll>>[][] = FORMATS.map(() => []);
  for (let round = 0; round < ROUNDS; round++)
    for (const [i] of FORMATS.entries()) runs[i].push(await fetchAll(pages[i]));
  const sound = RECORDINGS * SECONDS;
  console.log(
    table([
      [
        'kept in',
        'bytes of a second, stereo',
        'times real time',
        'server’s CPU, ms a second of sound',
        'unpacked, ns a sample',
      ],
      ...FORMATS.map((format, i) => {
        const bits = parseInt(format, 10) as SampleBits;
        return [
          `${bits} bit`,
          packedBytes(2 * RATE_HZ, bits),
          Math.round(sound / median(runs[i].map(({ seconds }) => seconds))),
          ((1000 * median(runs[i].map(({ cpu }) => cpu))) / sound).toFixed(2),
          unpackNanoseconds(bits).toFixed(2),
        ];
      }),
    ]),
  );
} finally {
  server.kill();
  rmSync(folder, { recursive: true, force: true });
}
