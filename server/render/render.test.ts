import { emptySong, MASTER_ID, newBus, newTrack, type Bus, type Song, type Track } from '@/core/song';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { PAGE_FRAMES, renderMix, compileSong } from '@/core/engine';
import { ownDataFolder } from '../testing/data-folder';
import { FileSource } from './file-source';
import { clippingRemark, fileNameOf } from './naming';
import { startRender } from './render-job';
import { stemsOf } from './stems';
import { createEmptySong } from '../songs/store';

const folder = ownDataFolder();

const track = (id: string, changes: Partial<Track> = {}): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 600 }, { id, name: id, ink: 0 }),
  ...changes,
});
const bus = (id: string, changes: Partial<Bus> = {}): Bus => ({ ...newBus({ id, name: id, ink: 0 }), ...changes });

/** The left side of a song whose tracks hold constants. */
function level(song: Song, levels: Record<string, number>): number {
  const source = (value: number) => ({
    channels: 1 as const,
    read: (_: number, count: number, left: Float64Array) => void left.fill(value, 0, count),
  });
  let last = 0;
  for (const block of renderMix(compileSong(song), (plan) => source(levels[plan.id] ?? 0)))
    last = block.left[block.frames - 1];
  return last / Math.SQRT1_2;
}

test('stems: each track alone before its bus, each bus with what feeds it, none of the master', () => {
  const song: Song = {
    ...emptySong('Stems'),
    tracks: [
      track('a', { outputId: 'x', gainDb: -6 }),
      track('b'),
      track('c', { muted: true }),
      track('d', { outputId: 'y' }),
    ],
    buses: [bus('x', { gainDb: 6, outputId: 'y' }), bus('y')],
    master: { ...emptySong('x').master, id: MASTER_ID, gainDb: -20 },
  };
  const stems = stemsOf(song);
  expect(stems.map((stem) => stem.name)).toEqual(['a', 'b', 'd', 'x', 'y']);
  const levels = { a: 0.1, b: 0.2, c: 0.4, d: 0.05 };
  const heard = Object.fromEntries(stems.map((stem) => [stem.name, level(stem.song, levels)]));
  expect(heard.a).toBeCloseTo(0.1 * 10 ** (-6 / 20), 9);
  expect(heard.b).toBeCloseTo(0.2, 9);
  expect(heard.x).toBeCloseTo(0.1, 9);
  expect(heard.y).toBeCloseTo(0.15, 9);
});

test('a file source reads what the pages hold, forward and back, and keeps few of them', () => {
  const length = 3 * PAGE_FRAMES + 100;
  const file = path.join(folder, 'pages');
  const values = Float32Array.from({ length }, (_, n) => n);
  writeFileSync(file, Buffer.from(values.buffer));
  const source = new FileSource(file, 1, length);
  const out = new Float64Array(300);
  for (const frame of [0, PAGE_FRAMES - 150, 2 * PAGE_FRAMES, 3 * PAGE_FRAMES - 100, 10, length - 100]) {
    source.read(frame, 300, out, out);
    expect(Array.from(out)).toEqual(Array.from({ length: 300 }, (_, n) => (frame + n < length ? frame + n : 0)));
  }
  source.close();
});

test.each([
  ['Lantern Ferry', 'Lantern-Ferry.wav'],
  ['Über / die "Brücke"', 'Uber-die-Brucke.wav'],
  ['../..', 'mix.wav'],
])('the title %s makes the file name %s', (title, name) => expect(fileNameOf(title)).toBe(name));

test('clipping is told in numbers', () => {
  expect(clippingRemark(1)).toContain('1 sample was');
  expect(clippingRemark(12)).toContain('12 samples were');
});

test('an empty song has nothing to render', async () => {
  const { id } = await createEmptySong('Empty', 48000);
  await expect(startRender(id, '24')).rejects.toMatchObject({
    code: 'invalid-input',
    message: expect.stringContaining('no tracks yet'),
  });
});
