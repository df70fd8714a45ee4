import type { FrequencyBand } from '../measure';
import { PowerFrames } from './resonance/power-frames';

/** Windows by the middle of the range that is shown, samples at 44.1 or 48 kHz: long ones where lines lie near to each other. */
const WINDOWS = [
  { belowHz: 400, size: 32768 },
  { belowHz: 1600, size: 16384 },
  { belowHz: Infinity, size: 8192 },
] as const;
/** What lies so far below the loudest place of a picture is blank, dB. */
const SHOWN_RANGE_DB = 60;
/** What is softer is silence, dB. */
const SILENT_DB = -100;

/** Which picture of a range is wanted. */
export interface OverTimeSize {
  /** Moments, one after the other. */
  rows: number;
  /** Frequencies, evenly spaced by their logarithms. */
  columns: number;
}

/** The highest power between two places: a line is as dark wherever it lies in its column. */
const powerBetween = (powers: Float64Array, from: number, to: number) => {
  // Where a column is narrower than a bin, it is read between two.
  if (to - from < 1) {
    const at = Math.min(powers.length - 1.001, Math.max(0, (from + to) / 2));
    const whole = Math.floor(at);
    return powers[whole] + (at - whole) * (powers[whole + 1] - powers[whole]);
  }
  let most = 0;
  for (let k = Math.ceil(from); k < to && k < powers.length; k++) if (powers[k] > most) most = powers[k];
  return most;
};

/**
 * The spectrum of a stretch over time, as a picture: what stays in one place is a line along time.
 * @param samples one array per channel, one or two of equal length
 * @param range on a logarithmic axis
 * @returns a byte for each column of each row: 0 is {@link SHOWN_RANGE_DB} below the loudest or less, 255 is the loudest
 */
export function spectrumOverTime(
  samples: readonly Float32Array[],
  rateHz: number,
  range: FrequencyBand,
  { rows, columns }: OverTimeSize,
): Uint8Array {
  const middle = Math.sqrt(range.lowHz * range.highHz);
  const size = WINDOWS.find(({ belowHz }) => middle < belowHz)!.size * (rateHz > 100000 ? 4 : rateHz > 50000 ? 2 : 1);
  // A row is the loudest of its windows, so that nothing falls between them.
  const perRow = Math.max(1, Math.ceil((2 * samples[0].length) / rows / size));
  const hop = Math.max(1, Math.floor(samples[0].length / rows / perRow));
  // Each moment stands in the middle of its window.
  const length = rows * perRow * hop;
  const around = samples.map((side) => {
    const padded = new Float32Array(size + length);
    padded.set(side.subarray(0, length), (size - hop) >> 1);
    return padded;
  });
  const binHz = rateHz / size;
  const edges = Array.from(
    { length: columns + 1 },
    (_, i) => (range.lowHz * (range.highHz / range.lowHz) ** (i / columns)) / binHz,
  );
  const levels = new Float64Array(rows * columns).fill(-Infinity);
  let number = 0;
  new PowerFrames(size, hop).run(around, (powers) => {
    const row = Math.floor(number++ / perRow);
    if (row >= rows) return;
    for (let i = 0; i < columns; i++) {
      const db = 10 * Math.log10(powerBetween(powers, edges[i], edges[i + 1]) + 1e-16);
      if (db > levels[row * columns + i]) levels[row * columns + i] = db;
    }
  });
  const loudest = levels.reduce((most, db) => Math.max(most, db), SILENT_DB);
  return Uint8Array.from(levels, (db) => Math.max(0, Math.round(255 * (1 + (db - loudest) / SHOWN_RANGE_DB))));
}
