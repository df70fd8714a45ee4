import { mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { emptySong, newTrack } from '@/core/song';
import { percentile } from './support';

/** The list of a thousand songs of forty tracks, as the songs' page asks for it: `npm run bench -- songs`. */
process.env.ORVID_DATA_DIR = mkdtempSync(path.join(os.tmpdir(), 'orvid-songs-'));
const { createSong, listSongs } = await import('@/server/songs/store');
const tracks = Array.from({ length: 40 }, (_, i) =>
  newTrack(
    { audioId: 'ab'.repeat(32), channels: 2, lengthFrames: 48000 * 240 },
    { id: `t${i}`, name: `Track ${i}`, ink: i },
  ),
);
for (let i = 0; i < 1000; i++) await createSong({ ...emptySong(`Song ${i}`), tracks });
const times: number[] = [];
for (let i = 0; i < 20; i++) {
  const began = performance.now();
  const { length } = await listSongs();
  if (length !== 1000) throw new Error(`${length} songs`);
  times.push(performance.now() - began);
}
console.log(
  `The list of 1000 songs of 40 tracks: median ${percentile(times, 0.5).toFixed(1)} ms, 95 % below ${percentile(times, 0.95).toFixed(1)} ms.`,
);
process.exit(0);
