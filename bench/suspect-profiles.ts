import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { BANDS } from '@/core/suspects/resonance/grid';
import { PROFILES, ProfileFinder } from '@/core/suspects/resonance/profiles';
import { levelsAround } from './recordings/faults';
import { learningRecordings, RATE, samplesOf } from './recordings/recordings';

/**
 * Writes what the networks that find resonances learn from, for `bench/recordings/training/train.py`: `suspect-profiles [PART OF]`, for
 * several at once. By name only, since it takes minutes.
 */
const [shard, shards] = process.argv.length > 3 ? process.argv.slice(2).map(Number) : [0, 1];
const path = join(tmpdir(), 'orvid-suspects', `profiles-${shard}.bin`);
const all = learningRecordings().filter((_, i) => i % shards === shard);
const rows = all.flatMap((recording) => {
  const samples = samplesOf(recording);
  const finder = new ProfileFinder(RATE);
  finder.push([samples]);
  return [levelsAround(samples), ...finder.finish()];
});
const head = Buffer.from(JSON.stringify({ names: all.map(({ name }) => name), rows: PROFILES, bands: BANDS }));
// What follows begins at a multiple of four.
const padded = Buffer.concat([head, Buffer.alloc((4 - (head.length % 4)) % 4, ' ')]);
const length = Buffer.alloc(4);
length.writeUInt32LE(padded.length);
writeFileSync(
  path,
  Buffer.concat([length, padded, ...rows.map((row) => Buffer.from(row.buffer, row.byteOffset, row.byteLength))]),
);
console.log(`${all.length} recordings: ${path}`);
