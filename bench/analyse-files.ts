import { runInWorker } from '@/server/workers/pool';

/** Measures recordings of the store's format as the server does: `analyse-files LENGTH_FRAMES PAGES…`, stereo at 48 kHz. */
const [length, ...files] = process.argv.slice(2);
await Promise.all(
  files.map((pages) => runInWorker('measure', { pages, channels: 2, rateHz: 48000, lengthFrames: Number(length) })),
);
process.exit(0);
