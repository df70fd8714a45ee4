import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { seededRandom } from '@/core/formats';
import { writeWav, type SoundBlock } from '@/server/render/write-wav';
import { median, runMeasured, table, type ProcessCost } from './support';

/**
 * `apply` of ten bands on ten minutes of stereo at 48 kHz, 32-bit float, against sox and ffmpeg doing the same: the median of five
 * runs each, taken in turns. All read and write a WAV file.
 */
const MINUTES = Number(process.argv[2] ?? 10);
const ROUNDS = 5;
const RATE = 48000;

const bells = [120, 250, 400, 700, 1100, 1800, 2900, 4700, 7600, 12000].map((frequencyHz, i) => ({
  frequencyHz,
  gainDb: i % 2 === 0 ? -4 : 3,
  q: 1.4,
}));

function* noise(): Generator<SoundBlock> {
  const random = seededRandom(1);
  for (let minute = 0; minute < MINUTES; minute++) {
    const samples = [0, 1].map(() => Float64Array.from({ length: 60 * RATE }, () => random() - 0.5));
    yield { samples, frames: 60 * RATE };
  }
}

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bench-'));
const at = (name: string) => path.join(folder, name);
await writeWav(at('in.wav'), { channels: 2, rateHz: RATE, format: '32f' }, noise());
writeFileSync(
  at('eq.json'),
  JSON.stringify({ format: 'orvid.eq', version: 1, bands: bells.map((bell) => ({ type: 'bell', ...bell })) }),
);

const programs: Record<string, [string, string[]]> = {
  orvid: [process.execPath, ['build/cli.mjs', 'apply', at('eq.json'), at('in.wav'), at('orvid.wav')]],
  sox: [
    'sox',
    [
      at('in.wav'),
      '-e',
      'floating-point',
      '-b',
      '32',
      at('sox.wav'),
      ...bells.flatMap(({ frequencyHz, gainDb, q }) => ['equalizer', `${frequencyHz}`, `${q}q`, `${gainDb}`]),
    ],
  ],
  ffmpeg: [
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      '-i',
      at('in.wav'),
      '-af',
      bells.map(({ frequencyHz, gainDb, q }) => `equalizer=f=${frequencyHz}:t=q:w=${q}:g=${gainDb}`).join(','),
      '-c:a',
      'pcm_f32le',
      at('ffmpeg.wav'),
    ],
  ],
};
const costs: Record<string, ProcessCost[]> = Object.fromEntries(Object.keys(programs).map((name) => [name, []]));
for (let round = 0; round < ROUNDS; round++) {
  for (const [name, [command, args]] of Object.entries(programs)) costs[name].push(runMeasured(command, args));
}
rmSync(folder, { recursive: true });

const of = (name: string, figure: keyof ProcessCost) => median(costs[name].map((cost) => cost[figure]));
console.log(`Ten bells over ${MINUTES} minutes of stereo, 48 kHz, 32-bit float; medians of ${ROUNDS} runs in turns.\n`);
console.log(
  table([
    ['program', 'wall s', 'CPU s', 'peak MiB', 'wall ÷ orvid', 'CPU ÷ orvid'],
    ...Object.keys(programs).map((name) => [
      name,
      of(name, 'wallSeconds').toFixed(2),
      of(name, 'cpuSeconds').toFixed(2),
      of(name, 'peakMebibytes').toFixed(0),
      (of(name, 'wallSeconds') / of('orvid', 'wallSeconds')).toFixed(2),
      (of(name, 'cpuSeconds') / of('orvid', 'cpuSeconds')).toFixed(2),
    ]),
  ]),
);
