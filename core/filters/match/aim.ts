import { analogMagnitudeDb, type AnalogSection } from '../analog';
import type { Aim } from '../refine';

export const AUDIBLE_TOP_HZ = 20000;
const POINTS = 36;
const PEAK_POINTS = 5;
const LOWEST_HZ = 20;
/** What lies deeper than this is not followed: nobody hears it, and a zero would draw the whole fit to itself. */
const DEEPEST_DB = -45;
/** The levels that some analog sections want of their digital ones, where they can be heard: half of the points are even on the logarithmic axis, half on the linear one, and the surroundings of each peak and dip have their own. */
export function aimOf(analog: readonly AnalogSection[], frequencyHz: number, rateHz: number): Aim {
  const topHz = Math.min(AUDIBLE_TOP_HZ, rateHz * 0.48);
  const bottomHz = Math.min(LOWEST_HZ, frequencyHz / 16);
  const list = [0];
  for (let i = 0; i < POINTS / 2; i++) {
    const share = i / (POINTS / 2 - 1);
    list.push(bottomHz * (topHz / bottomHz) ** share, bottomHz + (topHz - bottomHz) * share);
  }
  for (const [c0, c1, c2] of analog.flatMap(({ numerator, denominator }) => [denominator, numerator])) {
    if (c0 === 0 || c1 === 0 || c2 === 0) continue;
    const peakHz = frequencyHz * Math.sqrt(c0 / c2);
    const halfWidth = Math.min(1, c1 / Math.sqrt(c0 * c2));
    for (let k = -PEAK_POINTS; k <= PEAK_POINTS; k++) {
      const hz = peakHz * (1 + halfWidth) ** ((1.6 * k) / PEAK_POINTS);
      if (hz < topHz) list.push(hz);
    }
  }
  const omegas: number[] = [];
  const levelsDb: number[] = [];
  for (const hz of list) {
    const levelDb = analogMagnitudeDb(analog, frequencyHz, hz);
    if (levelDb < DEEPEST_DB) continue;
    omegas.push((2 * Math.PI * hz) / rateHz);
    levelsDb.push(levelDb);
  }
  return { omegas, levelsDb };
}
