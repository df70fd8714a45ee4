import { FrameAnalyser } from './frames';

const SIZE = 1024;

/** Powers of all windows of a recording that comes in pieces of so many frames. */
function framesOf(samples: Float64Array[], hop: number, piece: number): Float64Array[] {
  const frames: Float64Array[] = [];
  const analyser = new FrameAnalyser(SIZE, hop, (power) => frames.push(power.slice()));
  for (let at = 0; at < samples[0].length; at += piece)
    analyser.push(samples.map((side) => side.subarray(at, at + piece)));
  analyser.finish();
  return frames;
}
const sines = (length: number, hz: number) =>
  Float64Array.from({ length }, (_, n) => Math.sin(2 * Math.PI * hz * n) * (0.4 + 0.5 * Math.sin(n / 700)));
const greatest = (frames: Float64Array[], others: Float64Array[]) =>
  Math.max(...frames.flatMap((row, i) => Array.from(row, (power, k) => Math.abs(power - others[i][k]))));

test('a full-scale sine has a power of 1, in one channel as in two', () => {
  const sine = Float64Array.from({ length: 3 * SIZE }, (_, n) => Math.sin((2 * Math.PI * 64 * n) / SIZE));
  for (const samples of [[sine], [sine, sine]])
    for (const row of framesOf(samples, SIZE / 2, 999)) expect(row[64]).toBeCloseTo(1, 9);
});

// An even and an odd number of windows, pieces shorter and longer than a window, overlapping and apart.
test.each([
  [SIZE / 4, 12, 5000],
  [SIZE / 2, 7, 100],
  [SIZE, 5, 3 * SIZE],
  [1.5 * SIZE, 6, 333],
  [3 * SIZE + 17, 3, 12345],
])(
  'windows every %i samples, %i of them, in pieces of %i: two of one channel at a time are what each is alone',
  (hop, count, piece) => {
    const samples = sines(SIZE + (count - 1) * hop, 0.0371);
    const frames = framesOf([samples], hop, piece);
    expect(frames).toHaveLength(count);
    const alone = frames.map((_, i) => framesOf([samples.slice(i * hop, i * hop + SIZE)], hop, SIZE)[0]);
    expect(greatest(frames, alone)).toBeLessThan(1e-12);
    // Both sides the same are as one.
    expect(greatest(frames, framesOf([samples, samples], hop, piece))).toBeLessThan(1e-12);
  },
);
