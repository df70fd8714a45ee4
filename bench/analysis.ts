import { linkSync, mkdtempSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { PAGE_FRAMES } from '@/core/engine';
import { recordLanternFerry } from '@/demo/recordings';
import { writeWav, type SoundBlock } from '@/server/render/write-wav';
import { runMeasured, table, type ProcessCost } from './support';

/**
 * The stored analysis of 24 stereo files of four minutes, as the server measures what comes in (two worker threads), against ffmpeg's
 * `ebur128=peak=true` over the same: one file after the other, and two at a time. Levels in 120 bands, loudness, range, true peak and
 * peaks on the one side; loudness, range and true peak on the other.
 */
const FILES = 24;
const MINUTES = 4;
const RATE = 48000;
const FRAMES = MINUTES * 60 * RATE;
const ROUNDS = Number(process.argv[2] ?? 2);

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bench-'));
const at = (name: string) => path.join(folder, name);
const recordings = recordLanternFerry().filter(({ samples }) => samples.length === 2);

/** A recording over and over. */
function* looped(samples: readonly Float64Array[]): Generator<SoundBlock> {
  const length = samples[0].length;
  for (let frame = 0; frame < FRAMES; frame += length) {
    const frames = Math.min(length, FRAMES - frame);
    yield { samples: samples.map((channel) => channel.subarray(0, frames)), frames };
  }
}

async function writePages(file: string, samples: readonly Float64Array[]): Promise<void> {
  const out = await open(file, 'wx');
  for (let frame = 0; frame < FRAMES; frame += PAGE_FRAMES) {
    const frames = Math.min(PAGE_FRAMES, FRAMES - frame);
    for (const channel of samples) {
      const page = Float32Array.from({ length: frames }, (_, n) => channel[(frame + n) % channel.length]);
      await out.write(Buffer.from(page.buffer));
    }
  }
  await out.close();
}

for (const [i, { samples }] of recordings.entries()) {
  await writeWav(at(`${i}.wav`), { channels: 2, rateHz: RATE, format: '16' }, looped(samples));
  await writePages(at(`${i}.pages`), samples);
}
for (let file = recordings.length; file < FILES; file++)
  for (const kind of ['wav', 'pages']) linkSync(at(`${file % recordings.length}.${kind}`), at(`${file}.${kind}`));

const ffmpeg = (parallel: number) =>
  runMeasured('sh', [
    '-c',
    `seq 0 ${FILES - 1} | xargs -P ${parallel} -I N ffmpeg -v error -nostats -i ${folder}/N.wav -filter_complex ebur128=peak=true -f null -`,
  ]);
const ours = () =>
  runMeasured(process.execPath, [
    'build/run/analyse-files.mjs',
    String(FRAMES),
    ...Array.from({ length: FILES }, (_, i) => at(`${i}.pages`)),
  ]);

const runs: Record<string, () => ProcessCost> = {
  'orvid, stored analysis': ours,
  'ffmpeg ebur128=peak=true, one at a time': () => ffmpeg(1),
  'ffmpeg ebur128=peak=true, two at a time': () => ffmpeg(2),
};
try {
  const costs = Object.fromEntries(Object.keys(runs).map((name) => [name, [] as ProcessCost[]]));
  for (let round = 0; round < ROUNDS; round++) for (const [name, run] of Object.entries(runs)) costs[name].push(run());
  const best = (name: string) =>
    costs[name].reduce((least, cost) => (cost.wallSeconds < least.wallSeconds ? cost : least));
  const reference = best('orvid, stored analysis').wallSeconds;
  console.log(
    table([
      [`${FILES} files of ${MINUTES} minutes, the best of ${ROUNDS}`, 'wall, s', 'CPU, s', 'peak, MiB', 'times orvid'],
      ...Object.keys(runs).map((name) => {
        const { wallSeconds, cpuSeconds, peakMebibytes } = best(name);
        return [
          name,
          wallSeconds.toFixed(1),
          cpuSeconds.toFixed(1),
          peakMebibytes.toFixed(0),
          (wallSeconds / reference).toFixed(2),
        ];
      }),
    ]),
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
}
