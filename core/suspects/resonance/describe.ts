import { BANDS, bandHz } from './grid';
import { quantile } from '../order-statistics';
import { MOVEMENT, PARTIAL_SHARE, PROFILES, USUAL } from './profiles';

/** Bands to either side of a place that are looked at one by one, and further off by the highest of five. */
const NEAR = 24;
const FAR = 100;
const STEP = 5;
/** What is further off than this tells no more, dB. */
const LEAST_DB = -30;
const MOST_DB = 40;
const OFTEN = 4;

const NEAR_COUNT = 2 * NEAR + 1;
const FAR_COUNT = (2 * FAR) / STEP + 1;
const FAR_ROWS = [USUAL, OFTEN];
const FIGURES = NEAR_COUNT * PROFILES + FAR_COUNT * FAR_ROWS.length + 1;

const sorted = { near: new Float32Array(NEAR_COUNT), far: new Float32Array(FAR_COUNT) };

/** Levels against their middle one, in place. @param room as many places */
function againstMiddle(values: Float32Array, room: Float32Array): void {
  room.set(values);
  const middle = quantile(room.sort(), 0.5);
  for (let i = 0; i < values.length; i++) values[i] = Math.min(MOST_DB, Math.max(LEAST_DB, values[i] - middle)) / 10;
}

/** Values of a row from a place on; beyond its ends it goes on as it ends. */
function describeRow(row: Float32Array, from: number, out: Float32Array): void {
  for (let i = 0; i < out.length; i++) out[i] = row[Math.max(0, Math.min(BANDS - 1, from + i))];
}

/** The highest of five values about each of some places, a step apart. */
function takeHighest(row: Float32Array, from: number, out: Float32Array): void {
  for (let i = 0; i < out.length; i++) {
    let most = -Infinity;
    for (let k = -2; k <= 2; k++) most = Math.max(most, row[Math.max(0, Math.min(BANDS - 1, from + STEP * i + k))]);
    out[i] = most;
  }
}

/**
 * Tells the figures by which a place is judged: every profile around it, held against the middle of what is around; and two of them further off.
 * @param profiles see `ProfileFinder`
 * @returns tells as many figures of a band as the network takes
 */
export function describer(profiles: readonly Float32Array[]): (band: number) => Float32Array {
  const levels = profiles.filter((_, row) => row !== PARTIAL_SHARE && row !== MOVEMENT);
  return (band) => {
    const figures = new Float32Array(FIGURES);
    let at = 0;
    const next = (count: number) => figures.subarray(at, (at += count));
    for (const row of levels) {
      const values = next(NEAR_COUNT);
      describeRow(row, band - NEAR, values);
      againstMiddle(values, sorted.near);
    }
    const shares = next(NEAR_COUNT);
    describeRow(profiles[PARTIAL_SHARE], band - NEAR, shares);
    for (let i = 0; i < shares.length; i++) shares[i] = Math.min(1, Math.max(0, shares[i]));
    const movement = next(NEAR_COUNT);
    describeRow(profiles[MOVEMENT], band - NEAR, movement);
    for (let i = 0; i < movement.length; i++) movement[i] /= 10;
    for (const row of FAR_ROWS) {
      const values = next(FAR_COUNT);
      takeHighest(profiles[row], band - FAR, values);
      againstMiddle(values, sorted.far);
    }
    figures[at] = Math.log2(bandHz(band) / 1000);
    return figures;
  };
}
