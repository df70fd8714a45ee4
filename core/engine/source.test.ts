import fc from 'fast-check';
import { emptySong, newTrack } from '../song';
import { compileSong } from './compile';
import { Engine } from './engine';
import { PAGE_FRAMES, PagedSource } from './source';

/** A recording whose sample n of channel c is n + c/2, as pages. */
function ramp(channels: 1 | 2, lengthFrames: number): PagedSource {
  const source = new PagedSource(channels, lengthFrames);
  for (let page = 0; page < source.pageCount; page++) {
    const frames = Math.min(PAGE_FRAMES, lengthFrames - page * PAGE_FRAMES);
    const samples = new Float32Array(frames * channels);
    for (let c = 0; c < channels; c++) {
      for (let n = 0; n < frames; n++) samples[c * frames + n] = page * PAGE_FRAMES + n + c / 2;
    }
    source.setPage(page, samples);
  }
  return source;
}

test('any stretch reads the same, across pages and beyond both ends (seed 3)', () => {
  const length = 2 * PAGE_FRAMES + 1000;
  const sources = [ramp(1, length), ramp(2, length)];
  const start = fc.oneof(
    fc.integer({ min: -600, max: length + 600 }),
    fc.constantFrom(-1, 0, PAGE_FRAMES - 1, PAGE_FRAMES, 2 * PAGE_FRAMES - 3, length - 2),
  );
  fc.assert(
    fc.property(start, fc.integer({ min: 1, max: 512 }), fc.constantFrom(0, 1), (frame, count, which) => {
      const left = new Float64Array(count).fill(99);
      const right = new Float64Array(count).fill(99);
      sources[which].read(frame, count, left, right);
      const wanted = Array.from({ length: count }, (_, n) => (frame + n >= 0 && frame + n < length ? frame + n : null));
      expect(Array.from(left)).toEqual(wanted.map((at) => at ?? 0));
      if (which === 1) expect(Array.from(right)).toEqual(wanted.map((at) => (at === null ? 0 : at + 0.5)));
    }),
    { seed: 3, numRuns: 300 },
  );
});

test('a page that is not there yet, or was dropped, is silence', () => {
  const source = new PagedSource(1, PAGE_FRAMES + 10);
  const out = new Float64Array(20).fill(9);
  source.read(PAGE_FRAMES - 10, 20, out, out);
  expect(Array.from(out)).toEqual(new Array(20).fill(0));
  source.setPage(1, new Float32Array(10).fill(0.5));
  source.read(PAGE_FRAMES - 10, 20, out, out);
  expect(Array.from(out)).toEqual([...new Array(10).fill(0), ...new Array(10).fill(0.5)]);
  source.dropPage(1);
  expect(source.hasPage(1)).toBe(false);
  source.read(PAGE_FRAMES, 10, out, out);
  expect(out[0]).toBe(0);
});

test('samples that do not arrive in time fade out and in, time goes on, and it is counted', () => {
  const source = new PagedSource(1, 4 * PAGE_FRAMES);
  const page = Float32Array.from({ length: PAGE_FRAMES }, (_, n) => 0.5 * Math.sin((2 * Math.PI * n) / 64));
  for (const number of [0, 2, 3]) source.setPage(number, page);
  const track = newTrack(
    { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 4 * PAGE_FRAMES },
    { id: 't', name: 't', ink: 0 },
  );
  const engine = new Engine(48000, () => source);
  engine.setSong(compileSong({ ...emptySong('Late'), tracks: [track] }));
  const heard = new Float32Array(3 * PAGE_FRAMES);
  for (let at = 0; at < heard.length; at += 128)
    engine.process(at, 128, heard.subarray(at, at + 128), new Float32Array(128));
  expect(engine.lateCount).toBe(1);
  const loudest = (from: number, to: number) =>
    heard.subarray(from, to).reduce((most, v) => Math.max(most, Math.abs(v)), 0);
  expect(loudest(0, PAGE_FRAMES - 512)).toBeCloseTo(0.5 * Math.SQRT1_2, 3);
  expect(loudest(PAGE_FRAMES, 2 * PAGE_FRAMES)).toBe(0);
  expect(loudest(2 * PAGE_FRAMES + 512, heard.length)).toBeCloseTo(0.5 * Math.SQRT1_2, 3);
  // A sine bends by ω²·A from sample to sample; a click would bend it far more.
  const most = ((2 * Math.PI) / 64) ** 2 * 0.5 * Math.SQRT1_2;
  for (let n = 2; n < heard.length; n++)
    if (Math.abs(heard[n] - 2 * heard[n - 1] + heard[n - 2]) > 1.3 * most) throw new Error(`a click at ${n}`);
});

test('a track that comes in while it plays fades in when its samples are there; that they were not at first is not late', () => {
  const page = new Float32Array(PAGE_FRAMES).fill(0.5);
  const sources: Record<string, PagedSource> = {
    a: new PagedSource(1, PAGE_FRAMES),
    b: new PagedSource(1, PAGE_FRAMES),
  };
  sources.a.setPage(
    0,
    page.map(() => 0),
  );
  const [a, b] = ['a', 'b'].map((id) =>
    newTrack({ audioId: id.repeat(64), channels: 1, lengthFrames: PAGE_FRAMES }, { id, name: id, ink: 0 }),
  );
  const song = emptySong('Back');
  const engine = new Engine(48000, ({ id }) => sources[id]);
  engine.setSong(compileSong({ ...song, tracks: [a] }));
  const heard = new Float32Array(200 * 128);
  const play = (from: number, blocks: number) => {
    for (let at = 128 * from; at < 128 * (from + blocks); at += 128)
      engine.process(at, 128, heard.subarray(at, at + 128), new Float32Array(128));
  };
  play(0, 50);
  engine.setSong(compileSong({ ...song, tracks: [a, b] }));
  play(50, 50);
  sources.b.setPage(0, page);
  play(100, 100);
  expect(engine.lateCount).toBe(0);
  expect(heard[100 * 128 - 1]).toBe(0);
  expect(heard[heard.length - 1]).toBeCloseTo(0.5 * Math.SQRT1_2, 3);
  for (let n = 1; n < heard.length; n++) expect(Math.abs(heard[n] - heard[n - 1])).toBeLessThan(0.01);
});

test('what is not there after a jump is waited for a second before it counts as late; what is there begins at once', () => {
  const source = new PagedSource(1, 4 * PAGE_FRAMES);
  const page = new Float32Array(PAGE_FRAMES).fill(0.5);
  for (const number of [0, 1]) source.setPage(number, page);
  const track = newTrack(
    { audioId: 'ab'.repeat(32), channels: 1, lengthFrames: 4 * PAGE_FRAMES },
    { id: 't', name: 't', ink: 0 },
  );
  const engine = new Engine(48000, () => source);
  engine.setSong(compileSong({ ...emptySong('Jump'), tracks: [track] }));
  const [left, right] = [new Float32Array(128), new Float32Array(128)];
  const play = (from: number, blocks: number) => {
    for (let block = 0; block < blocks; block++) engine.process(from + 128 * block, 128, left, right);
  };
  const SECOND = 376;
  play(0, 100);
  engine.jump(0);
  play(3 * PAGE_FRAMES, SECOND - 2);
  expect([engine.lateCount, left[100]]).toEqual([0, 0]);
  play(3 * PAGE_FRAMES + 128 * SECOND, 10);
  expect(engine.lateCount).toBe(1);
  engine.jump(0);
  play(3 * PAGE_FRAMES, 50);
  source.setPage(3, page);
  play(3 * PAGE_FRAMES + 50 * 128, SECOND);
  expect(engine.lateCount).toBe(1);
  expect(left[100]).toBeCloseTo(0.5 * Math.SQRT1_2, 6);
  // What runs dry by itself is late at once.
  engine.jump(0);
  play(PAGE_FRAMES, PAGE_FRAMES / 128);
  expect(engine.lateCount).toBe(2);
});
