import { analogMagnitudeDb, prototype, solveLinear } from '../filters';
import { BAND_DEFAULTS, GAIN_RANGE_DB, Q_RANGE, type BandSettings } from '../song';
import { SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ } from './bands';

/** A curve that brings one long-term spectrum to another's, as editable bands. */
export interface MatchCurve {
  bands: BandSettings[];
  /** What brings the level along, dB. */
  outputGainDb: number;
}

export const MOST_MATCH_BANDS = 6;
/** Where spectra are compared in full; beyond, they count less the farther off. */
const FULL_LOW_HZ = 80;
const FULL_HIGH_HZ = 9000;
const BEYOND_WEIGHT = 0.05;
/** What is this far below the loudest third of an octave of its spectrum does not count as sounding. */
const HEARD_RANGE_DB = 45;
const SILENCE_DB = -110;
/** Spectra that share less than a third of an octave are not matched. */
const LEAST_BANDS = 4;
/** More is not asked of a band. */
const MOST_GAIN_DB = 18;
const MATCH_Q = { min: 0.3, max: 5 };
/** What a large gain costs against what it mends, so that no two bands pull against each other. */
const GAIN_COST = 0.02;
/** A band that moves no frequency by this much does not earn its place, dB. */
const LEAST_GAIN_DB = 0.3;

type Kind = 'bell' | 'low-shelf' | 'high-shelf';
interface Shape {
  kind: Kind;
  octave: number;
  gainDb: number;
  logQ: number;
}

const bandOf = ({ kind, octave, gainDb, logQ }: Shape): BandSettings => ({
  ...BAND_DEFAULTS,
  type: kind,
  frequencyHz: 2 ** octave,
  gainDb,
  q: 2 ** logQ,
});

function responseDb(shape: Shape): Float64Array {
  const sections = prototype(bandOf(shape));
  return Float64Array.from(SPECTRUM_CENTERS_HZ, (hz) => analogMagnitudeDb(sections, 2 ** shape.octave, hz));
}

/** Levels of a third of an octave about every band: what lies closer together is one place to the ear. Powers are added. */
function smoothed(levelsDb: ArrayLike<number>): Float64Array {
  return Float64Array.from({ length: SPECTRUM_BANDS }, (_, i) => {
    let [power, count] = [0, 0];
    for (let k = Math.max(0, i - 2); k <= Math.min(SPECTRUM_BANDS - 1, i + 2); k++) {
      const share = Math.abs(k - i) === 2 ? 0.5 : 1;
      power += share * 10 ** (levelsDb[k] / 10);
      count += share;
    }
    return 10 * Math.log10(power / count + 1e-30);
  });
}

/** How much each place counts: nothing where one of the two does not sound, since no filter gives it what it has not. */
function weightsOf(fromDb: Float64Array, toDb: Float64Array): Float64Array {
  const floor = (levels: Float64Array) => Math.max(SILENCE_DB, Math.max(...levels) - HEARD_RANGE_DB);
  const [fromFloor, toFloor] = [floor(fromDb), floor(toDb)];
  const sounds = Array.from(fromDb, (db, i) => db >= fromFloor && toDb[i] >= toFloor);
  return Float64Array.from(SPECTRUM_CENTERS_HZ, (hz, i) => {
    // Beside a silence the third of an octave is half silent.
    if (!sounds.slice(Math.max(0, i - 2), i + 3).every(Boolean)) return 0;
    return hz >= FULL_LOW_HZ && hz <= FULL_HIGH_HZ ? 1 : BEYOND_WEIGHT;
  });
}

const weightedSquares = (values: ArrayLike<number>, weights: Float64Array) =>
  weights.reduce((sum, weight, i) => sum + weight * values[i] ** 2, 0);

/** The shape that takes most of what is left, with the gain that suits it. */
function bestNewShape(left: Float64Array, weights: Float64Array): Shape {
  let best: Shape = { kind: 'bell', octave: 10, gainDb: 0, logQ: 0 };
  let most = -1;
  const consider = (kind: Kind, octave: number, logQ: number) => {
    const unit = responseDb({ kind, octave, gainDb: 1, logQ });
    let [dot, own] = [0, 0];
    for (let i = 0; i < SPECTRUM_BANDS; i++) {
      dot += weights[i] * unit[i] * left[i];
      own += weights[i] * unit[i] ** 2;
    }
    if (own < 1e-9 || dot ** 2 / own <= most) return;
    most = dot ** 2 / own;
    best = { kind, octave, logQ, gainDb: Math.min(MOST_GAIN_DB, Math.max(-MOST_GAIN_DB, dot / own)) };
  };
  for (let octave = Math.log2(50); octave <= Math.log2(16000); octave += 1 / 3)
    for (const logQ of [-1, 0, 1, 2]) consider('bell', octave, logQ);
  for (let octave = Math.log2(80); octave <= Math.log2(10000); octave += 1 / 2) {
    consider('low-shelf', octave, -0.5);
    consider('high-shelf', octave, -0.5);
  }
  return best;
}

const STEPS: Record<'octave' | 'gainDb' | 'logQ', number> = { octave: 0.01, gainDb: 0.05, logQ: 0.02 };
type Free = keyof typeof STEPS;

function tamed(shape: Shape): Shape {
  const within = (value: number, min: number, max: number) => Math.min(max, Math.max(min, value));
  const highestQ = shape.kind === 'bell' ? MATCH_Q.max : Math.SQRT1_2;
  return {
    ...shape,
    octave: within(shape.octave, Math.log2(30), Math.log2(18000)),
    gainDb: within(shape.gainDb, -MOST_GAIN_DB, MOST_GAIN_DB),
    logQ: within(shape.logQ, Math.log2(MATCH_Q.min), Math.log2(highestQ)),
  };
}

const costOf = (shapes: readonly Shape[]) => GAIN_COST * shapes.reduce((sum, { gainDb }) => sum + gainDb ** 2, 0);

/** What is to be matched: the one spectrum as it is, the other and the weights in thirds of an octave. */
interface Task {
  fromDb: ArrayLike<number>;
  /** Without the difference of levels. */
  toDb: Float64Array;
  weights: Float64Array;
}

/** What is left to do after some shapes, dB: measured as thirds of an octave of what comes out. */
function leftOf({ fromDb, toDb, weights }: Task, shapes: readonly Shape[]): Float64Array {
  const responses = shapes.map(responseDb);
  const after = smoothed(
    Float64Array.from(fromDb, (db, i) => responses.reduce((sum, response) => sum + response[i], db)),
  );
  return toDb.map((db, i) => (weights[i] > 0 ? db - after[i] : 0));
}

/** Moves all shapes together to the least weighted squares: Gauss and Newton with Levenberg's damping. */
function refineTogether(start: readonly Shape[], task: Task, rounds: number): Shape[] {
  const { weights } = task;
  let shapes = start.map(tamed);
  let left = leftOf(task, shapes);
  let error = weightedSquares(left, weights) + costOf(shapes);
  let damping = 0.1;
  const frees = Object.keys(STEPS) as Free[];
  const isGain = (column: number) => frees[column % 3] === 'gainDb';
  for (let round = 0; round < rounds; round++) {
    const columns = shapes.flatMap((shape) => {
      const own = responseDb(shape);
      return frees.map((free) => {
        const moved = responseDb({ ...shape, [free]: shape[free] + STEPS[free] });
        return moved.map((value, i) => (value - own[i]) / STEPS[free]);
      });
    });
    const dot = (first: Float64Array, second: Float64Array) =>
      weights.reduce((sum, weight, i) => sum + weight * first[i] * second[i], 0);
    const rows = columns.map((column, i) => [
      ...columns.map((other, j) => {
        if (i !== j) return dot(column, other);
        return dot(column, column) * (1 + damping) + (isGain(i) ? GAIN_COST : 1e-6);
      }),
      dot(column, left) - (isGain(i) ? GAIN_COST * shapes[Math.floor(i / 3)].gainDb : 0),
    ]);
    const moves = new Float64Array(columns.length);
    if (!solveLinear(rows, moves, columns.length)) break;
    const next = shapes.map((shape, s) =>
      tamed({
        ...shape,
        ...Object.fromEntries(frees.map((free, f) => [free, shape[free] + moves[3 * s + f]])),
      } as Shape),
    );
    const nextLeft = leftOf(task, next);
    const nextError = weightedSquares(nextLeft, weights) + costOf(next);
    if (nextError < error) {
      [shapes, left, error] = [next, nextLeft, nextError];
      damping = Math.max(1e-4, damping / 3);
    } else damping *= 4;
  }
  return shapes;
}

/**
 * Fits a few bells and shelves to the difference of two long-term spectra, taken in thirds of an octave where both sound: they are added
 * one by one, each where it takes most, and all are moved together by least squares after each.
 * @param fromDb the spectrum that is to be brought along, 120 levels, dB
 * @param toDb the spectrum it is brought to
 * @param most bands at most
 * @returns no bands where nothing differs or nothing sounds
 */
export function matchCurve(fromDb: ArrayLike<number>, toDb: ArrayLike<number>, most = MOST_MATCH_BANDS): MatchCurve {
  const [from, to] = [smoothed(fromDb), smoothed(toDb)];
  const weights = weightsOf(from, to);
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  if (total < LEAST_BANDS) return { bands: [], outputGainDb: 0 };
  const outputGainDb = weights.reduce((sum, weight, i) => sum + weight * (to[i] - from[i]), 0) / total;
  const task: Task = { fromDb, toDb: to.map((db) => db - outputGainDb), weights };
  let shapes: Shape[] = [];
  for (let count = 1; count <= most; count++) {
    const added = [...shapes, bestNewShape(leftOf(task, shapes), weights)];
    shapes = refineTogether(added, task, count === most ? 25 : 8);
  }
  const bands = shapes
    .filter(({ gainDb }) => Math.abs(gainDb) >= LEAST_GAIN_DB)
    .sort((a, b) => a.octave - b.octave)
    .map((shape) => {
      const band = bandOf(shape);
      return {
        ...band,
        frequencyHz: Number(band.frequencyHz.toPrecision(4)),
        gainDb: Math.round(band.gainDb * 10) / 10,
        q: Math.min(Q_RANGE.max, Number(band.q.toPrecision(3))),
      };
    });
  return { bands, outputGainDb: Math.round(outputGainDb * 10) / 10 };
}

/** A part of a match: 0 leaves everything as it is, 1 brings it all the way. */
export function matchAtStrength({ bands, outputGainDb }: MatchCurve, strength: number): MatchCurve {
  const share = (db: number) =>
    Math.min(GAIN_RANGE_DB.max, Math.max(GAIN_RANGE_DB.min, Math.round(db * strength * 10) / 10));
  return { bands: bands.map((band) => ({ ...band, gainDb: share(band.gainDb) })), outputGainDb: share(outputGainDb) };
}
