import { open } from 'node:fs/promises';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { ownDataFolder } from '../testing/data-folder';
import { writeWav } from './write-wav';

const folder = ownDataFolder();
const FRAMES = 1 << 20;
const shape = { channels: 1, rateHz: 48000, format: '32f' } as const;
/** Twenty megabytes: more than is written before the first of it is brought to the disk. */
const pieces = Array.from({ length: 5 }, (_, i) => ({
  samples: [new Float64Array(FRAMES).fill(i / 8)],
  frames: FRAMES,
}));

/** What all open files do when they are asked to bring to the disk what they hold. */
async function whileSyncing(datasync: () => Promise<void>) {
  const file = await open(path.join(folder, 'any'), 'w');
  const spy = jest.spyOn(Object.getPrototypeOf(file) as typeof file, 'datasync').mockImplementation(datasync);
  await file.close();
  return spy;
}

test('a long file is brought to the disk while it is written, and is whole', async () => {
  let calls = 0;
  const spy = await whileSyncing(async () => void calls++);
  const file = path.join(folder, 'whole.wav');
  await writeWav(file, shape, pieces);
  spy.mockRestore();
  expect(calls).toBeGreaterThan(0);
  const bytes = readFileSync(file);
  const data = bytes.indexOf('data') + 8;
  expect(bytes.readUInt32LE(data - 4)).toBe(4 * FRAMES * pieces.length);
  expect(pieces.map((_, i) => bytes.readFloatLE(data + 4 * FRAMES * i))).toEqual([0, 1 / 8, 2 / 8, 3 / 8, 4 / 8]);
});

test('a disk that fails meanwhile is told of, though all that follows goes well', async () => {
  const spy = await whileSyncing(() => Promise.reject(new Error('EIO: i/o error, fdatasync')));
  await expect(writeWav(path.join(folder, 'failed.wav'), shape, pieces)).rejects.toThrow('EIO');
  spy.mockRestore();
});
