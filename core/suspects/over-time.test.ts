import { seededRandom } from '../formats';
import { spectrumOverTime } from './over-time';

const RATE = 48000;
const SECONDS = 10;
const SIZE = { rows: 50, columns: 96 };
const range = { lowHz: 250, highHz: 4000 };
/** The column of a frequency in four octaves. */
const columnOf = (hz: number) => Math.floor((SIZE.columns * Math.log2(hz / range.lowHz)) / 4);

/** A steady line at 1 kHz under noise, a stronger tone that climbs from 500 Hz to 2 kHz, silence in the last second. */
const random = seededRandom(3);
const samples = Float32Array.from({ length: SECONDS * RATE }, (_, n) => {
  const seconds = n / RATE;
  if (seconds > SECONDS - 1) return 0;
  const climbing = (2 * Math.PI * 500 * (4 ** (seconds / SECONDS) - 1) * SECONDS) / Math.log(4);
  return 0.01 * (random() - 0.5) + 0.1 * Math.sin(2 * Math.PI * 1000 * seconds) + 0.3 * Math.sin(climbing);
});

test.each([
  ['mono', [samples]],
  ['stereo', [samples, samples]],
])('%s: what stays is a line along time, what climbs is a slanted one, silence is blank', (_, sides) => {
  const picture = spectrumOverTime(sides, RATE, range, SIZE);
  expect(picture).toHaveLength(SIZE.rows * SIZE.columns);
  expect(Math.max(...picture)).toBe(255);
  const at = (row: number, hz: number) => picture[row * SIZE.columns + columnOf(hz)];
  for (const row of [3, 12, 35, 43]) {
    const seconds = ((row + 0.5) / SIZE.rows) * SECONDS;
    const climbing = 500 * 4 ** (seconds / SECONDS);
    // −9.5 dB beside the loudest, and the moving one a little less than that; the noise is far below both.
    expect(at(row, 1000)).toBeGreaterThan(255 - 14 * (255 / 60));
    expect(Math.max(at(row, climbing * 0.985), at(row, climbing), at(row, climbing * 1.015))).toBeGreaterThan(180);
    expect(at(row, 3500)).toBeLessThan(at(row, 1000) - 90);
  }
  expect(Math.max(...picture.subarray((SIZE.rows - 1) * SIZE.columns))).toBe(0);
});

test('of a long stretch, too, nothing falls between the windows', () => {
  const long = new Float32Array(60 * RATE);
  for (let n = 0; n < 2000; n++)
    long[31 * RATE + n] = Math.sin((2 * Math.PI * 5100 * n) / RATE) * Math.sin((Math.PI * n) / 2000);
  const picture = spectrumOverTime([long], RATE, { lowHz: 2500, highHz: 10000 }, { rows: 20, columns: 40 });
  expect(picture.indexOf(255)).toBe(10 * 40 + 20);
});

test('a silent stretch, and one that is shorter than a window, are no fault', () => {
  for (const length of [RATE, 200]) {
    const picture = spectrumOverTime([new Float32Array(length)], 96000, { lowHz: 60, highHz: 240 }, SIZE);
    expect([...picture]).toEqual(new Array(SIZE.rows * SIZE.columns).fill(0));
  }
});
