import fc from 'fast-check';
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
