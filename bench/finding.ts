import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { SuspectFinder } from '@/core/suspects/finder';
import { recordLanternFerry } from '@/demo/recordings';
import { writeWav } from '@/server/render/write-wav';
import { median, runMeasured, table } from './support';

/**
 * Looking for suspects in mono recordings of four minutes, in turns with ffmpeg's `ebur128=peak=true` over the same: processor time of each, and their ratio.
 * `finding [N]`: so many rounds. In the first one code is not yet warm.
 */
const RATE = 48000;
const FRAMES = 240 * RATE;
const BLOCK = 65536;
const [rounds = 5] = process.argv.slice(2).map(Number);

const recordings = recordLanternFerry()
  .slice(0, 4)
  .map(({ name, samples: [left] }) => ({
    name,
    samples: Float32Array.from({ length: FRAMES }, (_, n) => left[n % left.length]),
  }));

function look(samples: Float32Array): number {
  const began = process.cpuUsage();
  const finder = new SuspectFinder(RATE, FRAMES);
  for (let at = 0; at < FRAMES; at += BLOCK) finder.push([samples.subarray(at, at + BLOCK)]);
  finder.finish();
  const { user, system } = process.cpuUsage(began);
  return (user + system) / 1e6;
}

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bench-'));
try {
  const rows: { own: number; theirs: number }[] = [];
  for (const [i, { samples }] of recordings.entries())
    await writeWav(path.join(folder, `${i}.wav`), { channels: 1, rateHz: RATE, format: '16' }, [
      { samples: [samples], frames: FRAMES },
    ]);
  for (let round = 0; round < rounds; round++)
    for (const [i, { samples }] of recordings.entries()) {
      const file = path.join(folder, `${i}.wav`);
      const own = look(samples);
      const args = ['-v', 'error', '-nostats', '-i', file, '-filter_complex', 'ebur128=peak=true', '-f', 'null', '-'];
      rows.push({ own, theirs: runMeasured('ffmpeg', args).cpuSeconds });
    }
  const told = (some: typeof rows) => {
    const own = some.map((row) => row.own);
    return [
      median(own).toFixed(2),
      Math.min(...own).toFixed(2),
      Math.max(...own).toFixed(2),
      median(some.map((row) => row.theirs)).toFixed(2),
      median(some.map((row) => row.own / row.theirs)).toFixed(2),
    ];
  };
  console.log(
    table([
      ['suspects of four minutes', 'median, s', 'least', 'most', 'ffmpeg, s', 'times ffmpeg'],
      ['first round', ...told(rows.slice(0, recordings.length))],
      ...(rounds > 1 ? [['others', ...told(rows.slice(recordings.length))]] : []),
    ]),
  );
} finally {
  rmSync(folder, { recursive: true });
}
