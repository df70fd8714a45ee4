import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { seededRandom } from '@/core/formats';
import { Resampler } from '@/core/resample/resampler';
import { median, runMeasured, table } from './support';

/**
 * Another sample rate, two minutes of stereo noise, against sox (`rate -v`) and ffmpeg (`aresample`) doing the same from raw 32-bit floats to nothing;
 * medians of five runs each, taken in turns. Sox and ffmpeg start as programs each time, which is some hundredths of a second.
 */
const SECONDS = Number(process.argv[2] ?? 120);
const ROUNDS = 5;
const BLOCK = 65536;
const PAIRS = [
  [44100, 48000],
  [48000, 44100],
  [96000, 48000],
] as const;

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bench-'));
const raw = path.join(folder, 'in.raw');
const random = seededRandom(1);

const rows: string[][] = [];
for (const [from, to] of PAIRS) {
  const sides = [0, 1].map(() => Float32Array.from({ length: SECONDS * from }, () => random() - 0.5));
  const interleaved = new Float32Array(2 * SECONDS * from);
  sides.forEach((side, c) => side.forEach((sample, n) => (interleaved[2 * n + c] = sample)));
  writeFileSync(raw, interleaved);
  const shape = ['-t', 'raw', '-e', 'floating-point', '-b', '32', '-c', '2', '-r', String(from), raw];
  const input = ['-f', 'f32le', '-ac', '2', '-ar', String(from), '-i', raw];
  const costs = { orvid: [] as number[], sox: [] as number[], ffmpeg: [] as number[] };
  for (let round = 0; round < ROUNDS; round++) {
    const before = performance.now();
    const resampler = new Resampler(from, to, 2);
    for (let at = 0; at < sides[0].length; at += BLOCK)
      resampler.push(sides.map((side) => side.subarray(at, at + BLOCK)));
    resampler.finish();
    costs.orvid.push((performance.now() - before) / 1000);
    costs.sox.push(runMeasured('sox', [...shape, '-n', 'rate', '-v', String(to)]).wallSeconds);
    costs.ffmpeg.push(
      runMeasured('ffmpeg', ['-v', 'error', ...input, '-af', `aresample=${to}`, '-f', 'null', '-']).wallSeconds,
    );
  }
  const [own, sox, ffmpeg] = [costs.orvid, costs.sox, costs.ffmpeg].map(median);
  rows.push([
    `${from} to ${to} Hz`,
    (SECONDS / own).toFixed(0),
    own.toFixed(2),
    sox.toFixed(2),
    ffmpeg.toFixed(2),
    (sox / own).toFixed(2),
    (ffmpeg / own).toFixed(2),
  ]);
}
rmSync(folder, { recursive: true });
console.log(`${SECONDS} s of stereo noise; medians of ${ROUNDS} runs in turns.\n`);
console.log(
  table([['rates', '× real time', 'orvid s', 'sox s', 'ffmpeg s', 'sox ÷ orvid', 'ffmpeg ÷ orvid'], ...rows]),
);
