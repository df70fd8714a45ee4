import { seededRandom } from '@/core/formats';
import {
  emptyEqualizer,
  emptySong,
  MASTER_ID,
  newBandSettings,
  newBus,
  newTrack,
  type Bus,
  type Song,
  type Track,
} from '@/core/song';
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { PAGE_FRAMES, renderMix, compileSong } from '@/core/engine';
import { ownDataFolder } from '../testing/data-folder';
import { FileSource } from './file-source';
import { plainOrder, renderableStrips } from '@/core/renders';
import { clippingRemark } from './clipping';
import { startRenders } from './render-job';
import { renderSongFile } from './render-song';
import { soundOf } from './stems';
import { createEmptySong } from '../songs/store';
import { freshPages } from '../audio/page-file';

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
  const stems = renderableStrips(song).map(({ id, name }) => ({
    name,
    song: soundOf(song, { what: id, throughMaster: false }),
  }));
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
  const source = new FileSource(freshPages(file, 'x', 48000), 1, length);
  const out = new Float64Array(300);
  for (const frame of [0, PAGE_FRAMES - 150, 2 * PAGE_FRAMES, 3 * PAGE_FRAMES - 100, 10, length - 100]) {
    source.read(frame, 300, out, out);
    expect(Array.from(out)).toEqual(Array.from({ length: 300 }, (_, n) => (frame + n < length ? frame + n : 0)));
  }
  source.close();
});

test('clipping is told in numbers', () => {
  expect(clippingRemark(1)).toContain('1 sample was');
  expect(clippingRemark(12)).toContain('12 samples were');
});

test('an empty song has nothing to render', async () => {
  const { id } = await createEmptySong('Empty', 48000);
  await expect(startRenders(id, plainOrder)).rejects.toMatchObject({
    code: 'invalid-input',
    message: expect.stringContaining('no tracks yet'),
  });
});

describe('a render on several threads', () => {
  const ids = ['a', 'b', 'c'].map((letter) => letter.repeat(64));
  const pageFiles = Object.fromEntries(
    ids.map((id) => [id, freshPages(path.join(folder, `pages-${id[0]}`), id[0], 48000)]),
  );
  const length = 90000;
  const song: Song = {
    ...emptySong('Threads'),
    tracks: Array.from({ length: 11 }, (_, i) =>
      track(`t${i}`, {
        audioId: ids[i % 3],
        lengthFrames: length,
        outputId: i % 4 === 0 ? 'x' : MASTER_ID,
        pan: i / 10 - 0.5,
        chain: [
          {
            ...emptyEqualizer(`e${i}`),
            phase: i === 5 ? 'linear' : 'minimum',
            bands: [{ ...newBandSettings('bell', 200 * (i + 1)), gainDb: 6, id: 'b', letter: 'A' }],
          },
        ],
      }),
    ),
    buses: [bus('x', { gainDb: -3 })],
  };
  const render = async (threads: number, files = pageFiles) => {
    const out = path.join(folder, `threads-${threads}-${Math.random()}.wav`);
    await renderSongFile({ song, pageFiles: files, out, format: '32f' }, () => undefined, threads);
    return readFileSync(out);
  };
  beforeAll(() =>
    ids.forEach((id, i) => {
      const random = seededRandom(i + 1);
      const samples = Float32Array.from({ length }, () => random() - 0.5);
      writeFileSync(pageFiles[id].path, Buffer.from(samples.buffer));
    }),
  );

  test('gives the same file to the last bit as one thread', async () => {
    const alone = await render(0);
    expect(alone.length).toBeGreaterThan(length * 8);
    for (const threads of [1, 2, 3]) expect((await render(threads)).equals(alone)).toBe(true);
  });

  test('ends with a message when a thread cannot read a recording', async () => {
    await expect(
      render(2, { ...pageFiles, [ids[1]]: freshPages(path.join(folder, 'none'), 'none', 48000) }),
    ).rejects.toMatchObject({
      code: 'damaged',
      message: '“none”: its recording is missing.',
    });
  });
});
