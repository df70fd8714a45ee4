import { SPECTRUM_BANDS } from './bands';
import { BYTE_POWERS, levelByte } from './band-levels';
import { decibelsOf } from './decibels';
import type { StepRange } from './loudness';

/** Levels over time of a recording, or of a stretch of it, as {@link BandLevelsAnalyser} gives them or in longer rows. */
export interface LevelRows {
  /** 120 bytes a row. */
  bytes: Uint8Array;
  /** The step of 50 ms with which the first row begins. */
  firstStep: number;
  /** The step before which the stretch ends; what lies behind the last row is silent. */
  endStep: number;
  /** Steps of 50 ms in a row, whose powers are averaged. */
  stepsPerRow: number;
}

/** All of a recording, as it is stored: a row for every step. */
export const wholeRows = (bytes: Uint8Array): LevelRows => ({
  bytes,
  firstStep: 0,
  endStep: Infinity,
  stepsPerRow: 1,
});

/** So little that it changes no level that has a byte. */
const FLOOR = 1e-30;
let ofThisThread: ReturnType<typeof decibelsOf> | undefined;
const threadDecibels = () => (ofThisThread ??= decibelsOf(SPECTRUM_BANDS, FLOOR));

/**
 * A stretch of a recording, in rows of the mean power of several steps; what lies behind the end of the recording counts as silence.
 * @param bytes as {@link BandLevelsAnalyser} gives them
 * @param stepsPerRow a whole number, at least 1
 * @returns 120 bytes a row, no row for what lies wholly behind the end
 */
export function cutRows(bytes: Uint8Array, { from, to }: StepRange, stepsPerRow: number): Uint8Array {
  const end = Math.min(to, bytes.length / SPECTRUM_BANDS);
  if (stepsPerRow === 1) return bytes.subarray(Math.min(from, end) * SPECTRUM_BANDS, end * SPECTRUM_BANDS);
  const count = Math.max(0, Math.ceil((end - from) / stepsPerRow));
  const rows = new Uint8Array(count * SPECTRUM_BANDS);
  const sums = new Float64Array(SPECTRUM_BANDS);
  const toDb = threadDecibels();
  const meanDb = 10 * Math.log10(stepsPerRow);
  // Looked up once: this is the loop in which the time goes.
  const powers = BYTE_POWERS;
  for (let row = 0; row < count; row++) {
    sums.fill(0);
    const first = from + row * stepsPerRow;
    const beyond = SPECTRUM_BANDS * Math.min(end, first + stepsPerRow);
    for (let at = SPECTRUM_BANDS * first; at < beyond; at += SPECTRUM_BANDS)
      for (let band = 0; band < SPECTRUM_BANDS; band++) sums[band] += powers[bytes[at + band]];
    const levels = toDb(sums, SPECTRUM_BANDS);
    for (let band = 0; band < SPECTRUM_BANDS; band++)
      rows[row * SPECTRUM_BANDS + band] = levelByte(levels[band] - meanDb, row, band);
  }
  return rows;
}

/** The rows of several recordings as one: how many bytes each has, in four bytes of which the lowest comes first, and then all of them. */
export function joinRows(rows: readonly Uint8Array[]): Uint8Array {
  const head = new DataView(new ArrayBuffer(4 * rows.length));
  rows.forEach((bytes, i) => head.setUint32(4 * i, bytes.length, true));
  const joined = new Uint8Array(head.byteLength + rows.reduce((sum, bytes) => sum + bytes.length, 0));
  joined.set(new Uint8Array(head.buffer));
  let at = head.byteLength;
  for (const bytes of rows) {
    joined.set(bytes, at);
    at += bytes.length;
  }
  return joined;
}

/** The rows of so many recordings, out of what {@link joinRows} has made of them; each in memory of its own. @throws RangeError where it is not whole */
export function partRows(joined: Uint8Array, count: number): Uint8Array[] {
  const { buffer, byteOffset, length } = joined;
  const head = new DataView(buffer, byteOffset, length);
  let at = 4 * count;
  const rows = Array.from({ length: count }, (_, i) => joined.slice(at, (at += head.getUint32(4 * i, true))));
  if (at !== length) throw new RangeError(`Levels of ${at} bytes are told of, and ${length} have come.`);
  return rows;
}

/** Calls for every row of some levels that reaches into a stretch. @param visit hears where its bytes begin, and the steps of the stretch that it covers */
export function eachRow(
  { bytes, firstStep, stepsPerRow }: LevelRows,
  { from, to }: StepRange,
  visit: (at: number, first: number, end: number) => void,
): void {
  const rows = bytes.length / SPECTRUM_BANDS;
  for (let row = Math.max(0, Math.floor((from - firstStep) / stepsPerRow)); row < rows; row++) {
    const begin = firstStep + row * stepsPerRow;
    if (begin >= to) return;
    visit(row * SPECTRUM_BANDS, Math.max(from, begin), Math.min(to, begin + stepsPerRow));
  }
}

/** Of several levels of one recording those that know most of a stretch: all of it, and then the shortest rows. */
export function rowsOver(known: readonly LevelRows[], { from, to }: StepRange): LevelRows | undefined {
  const covered = ({ firstStep, endStep }: LevelRows) => Math.min(to, endStep) - Math.max(from, firstStep);
  return [...known].sort((a, b) => covered(b) - covered(a) || a.stepsPerRow - b.stepsPerRow)[0];
}
