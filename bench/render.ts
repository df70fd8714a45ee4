import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { PAGE_FRAMES } from '@/core/engine';
import { seededRandom } from '@/core/formats';
import { renderSongFile } from '@/server/render/render-song';
import { benchSong, median, table } from './support';
import { freshPages } from '@/server/audio/page-file';

/**
 * A mix of 24 stereo tracks of five minutes, ten bands each, rendered to a 32-bit float file: on one thread and on all cores, in turns.
 * All tracks read the same recording, so that the bench measures the engine and not the disk.
 */
const TRACKS = 24;
const MINUTES = Number(process.argv[2] ?? 5);
const RATE = 48000;
const ROUNDS = 3;
const LENGTH = MINUTES * 60 * RATE;
const AUDIO_ID = 'ab'.repeat(32);

const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bench-'));
const pages = path.join(folder, 'pages');
const random = seededRandom(1);
const stream = createWriteStream(pages);
for (let frame = 0; frame < LENGTH; frame += PAGE_FRAMES) {
  const samples = Float32Array.from({ length: 2 * Math.min(PAGE_FRAMES, LENGTH - frame) }, () => random() - 0.5);
  if (!stream.write(Buffer.from(samples.buffer))) await once(stream, 'drain');
}
stream.end();
await once(stream, 'close');

const song = benchSong(TRACKS, 10, { audioId: AUDIO_ID, channels: 2, lengthFrames: LENGTH });
const cores = os.availableParallelism();
const times = new Map<number, number[]>([
  [0, []],
  [cores, []],
]);
for (let round = 0; round < ROUNDS; round++) {
  for (const [threads, list] of times) {
    const out = path.join(folder, 'out.wav');
    const started = performance.now();
    await renderSongFile(
      { song, pageFiles: { [AUDIO_ID]: freshPages(pages, 'noise', song.rateHz) }, out, format: '32f' },
      () => undefined,
      threads,
    );
    list.push((performance.now() - started) / 1000);
    rmSync(out);
  }
}
rmSync(folder, { recursive: true });
console.log(`${TRACKS} stereo tracks of ${MINUTES} minutes, ten bands each; medians of ${ROUNDS} runs in turns.\n`);
console.log(
  table([
    ['threads for the tracks', 'seconds', 'times real time'],
    ...[...times].map(([threads, list]) => [
      threads === 0 ? 'none of their own' : `${threads}, as many as cores`,
      median(list).toFixed(2),
      ((MINUTES * 60) / median(list)).toFixed(0),
    ]),
  ]),
);
