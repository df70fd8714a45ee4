import { SPECTRUM_BANDS } from './bands';
import { integratedLufs, matchingGainDb, weightedPowers } from './loudness';
import { BandLevelsAnalyser, STEPS_PER_SECOND } from './band-levels';
import { wholeRows } from './level-rows';

const RATE = 48000;
const FLAT = new Float64Array(SPECTRUM_BANDS).fill(1);

function sine(hz: number, dbfs: number, seconds: number): Float64Array {
  const amplitude = 10 ** (dbfs / 20);
  return Float64Array.from({ length: seconds * RATE }, (_, n) => amplitude * Math.sin((2 * Math.PI * hz * n) / RATE));
}
function levelsOf(channels: Float64Array[]): Uint8Array {
  const analyser = new BandLevelsAnalyser(RATE, channels.length);
  for (let at = 0; at < channels[0].length; at += 1000)
    analyser.push(channels.map((samples) => samples.subarray(at, at + 1000)));
  return analyser.finish();
}
/** Loudness of a recording by its stored analysis. */
function lufs(channels: Float64Array[], gains: ArrayLike<number> = FLAT): number {
  const levels = levelsOf(channels);
  const range = { from: 0, to: levels.length / SPECTRUM_BANDS };
  return integratedLufs(weightedPowers(wholeRows(levels), channels.length as 1 | 2, gains, range));
}
const joined = (...parts: Float64Array[]) => {
  const all = new Float64Array(parts.reduce((sum, part) => sum + part.length, 0));
  parts.reduce((at, part) => (all.set(part, at), at + part.length), 0);
  return all;
};

// EBU Tech 3341, test cases 1 and 2: a stereo sine of 1 kHz at −23 dBFS reads −23.0 LUFS, one at −33 dBFS −33.0 LUFS, both ±0.1 LU.
test.each([-23, -33])('a stereo sine of 1 kHz at %i dBFS has that many LUFS', (dbfs) => {
  const signal = sine(1000, dbfs, 5);
  expect(Math.abs(lufs([signal, signal]) - dbfs)).toBeLessThan(0.1);
});

// EBU Tech 3341, test case 3: the quiet ends fall under the relative gate, −23.0 LUFS.
test('what is quiet falls under the relative gate', () => {
  const signal = joined(sine(1000, -36, 10), sine(1000, -23, 60), sine(1000, -36, 10));
  expect(Math.abs(lufs([signal, signal]) + 23)).toBeLessThan(0.1);
});

test('a mono recording is as loud as its share on both sides; a gain is heard in full', () => {
  const signal = sine(1000, -23, 3);
  expect(lufs([signal])).toBeCloseTo(lufs([signal, signal]) - 3.01, 1);
  expect(
    lufs(
      [signal, signal],
      FLAT.map(() => 0.25),
    ),
  ).toBeCloseTo(lufs([signal, signal]) - 6.02, 2);
});

test('silence has no loudness, and nothing is matched to it', () => {
  expect(lufs([new Float64Array(RATE)])).toBe(-Infinity);
  expect(integratedLufs([])).toBe(-Infinity);
  expect(matchingGainDb(-Infinity, -20)).toBe(0);
  expect(matchingGainDb(-30, -20)).toBe(10);
  expect(matchingGainDb(-90, -20)).toBe(24);
});

test('there is a row for every 50 ms that have begun, however the recording is cut', () => {
  const noise = Float64Array.from({ length: 30011 }, (_, n) => Math.sin(n * n));
  const rows = Math.ceil((30011 / RATE) * STEPS_PER_SECOND);
  const inOne = new BandLevelsAnalyser(RATE, 1);
  inOne.push([noise]);
  expect(inOne.finish()).toEqual(levelsOf([noise]));
  expect(levelsOf([noise])).toHaveLength(rows * SPECTRUM_BANDS);
  expect(new BandLevelsAnalyser(RATE, 2).finish()).toHaveLength(0);
});
