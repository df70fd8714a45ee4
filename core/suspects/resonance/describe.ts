import { BANDS, bandHz } from './grid';
import { quantile } from '../order-statistics';
import { MOVEMENT, PARTIAL_SHARE, USUAL } from './profiles';

/** Bands to either side of a place that are looked at one by one, and further off by the highest of five. */
const NEAR = 24;
const FAR = 100;
const STEP = 5;
/** What is further off than this tells no more, dB. */
const LEAST_DB = -30;
const MOST_DB = 40;
const OFTEN = 4;

const level = (db: number, middle: number) => Math.min(MOST_DB, Math.max(LEAST_DB, db - middle)) / 10;
const medianOf = (values: number[]) => quantile(Float64Array.from(values).sort(), 0.5);

/**
 * The figures by which a place is judged: every profile around it, held against the middle of what is around; and two of them further off.
 * @param profiles see `ProfileFinder`
 * @returns as many figures as the network takes
 */
export function describe(profiles: readonly Float32Array[], band: number): Float32Array {
  const figures: number[] = [];
  const at = (row: number, place: number) => profiles[row][Math.max(0, Math.min(BANDS - 1, place))];
  const near = (row: number) => Array.from({ length: 2 * NEAR + 1 }, (_, i) => at(row, band - NEAR + i));
  profiles.forEach((_, row) => {
    if (row === PARTIAL_SHARE || row === MOVEMENT) return;
    const values = near(row);
    const middle = medianOf(values);
    for (const value of values) figures.push(level(value, middle));
  });
  for (const value of near(PARTIAL_SHARE)) figures.push(Math.min(1, Math.max(0, value)));
  for (const value of near(MOVEMENT)) figures.push(value / 10);
  for (const row of [USUAL, OFTEN]) {
    const highest: number[] = [];
    for (let off = -FAR; off <= FAR; off += STEP) {
      let most = -Infinity;
      for (let k = -2; k <= 2; k++) most = Math.max(most, at(row, band + off + k));
      highest.push(most);
    }
    const middle = medianOf(highest);
    for (const value of highest) figures.push(level(value, middle));
  }
  figures.push(Math.log2(bandHz(band) / 1000));
  return Float32Array.from(figures);
}
