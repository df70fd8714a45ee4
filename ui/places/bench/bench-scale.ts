import type { Band } from '@/core/song';

/** The vertical scale of the bench: decibels about a line of 0 in the middle. */
export interface BenchScale {
  rangeDb: number;
  height: number;
  y: (db: number) => number;
  db: (y: number) => number;
  /** Where the grid has lines, dB. */
  ticksDb: readonly number[];
}

const MARGIN = 14;
const RANGES_DB = [18, 36];

/** The smallest range that holds every gain with some air. */
export function rangeFor(bands: readonly Pick<Band, 'gainDb'>[]): number {
  const most = Math.max(0, ...bands.map((band) => Math.abs(band.gainDb)));
  return RANGES_DB.find((range) => most <= range - 0.5) ?? RANGES_DB[RANGES_DB.length - 1];
}

export function benchScale(rangeDb: number, height: number): BenchScale {
  const perDb = Math.max(1, height / 2 - MARGIN) / rangeDb;
  const step = rangeDb > 18 || height < 150 ? 12 : 6;
  const count = Math.floor((rangeDb - 1) / step);
  return {
    rangeDb,
    height,
    y: (db) => height / 2 - db * perDb,
    db: (y) => (height / 2 - y) / perDb,
    ticksDb: Array.from({ length: 2 * count + 1 }, (_, i) => (i - count) * step),
  };
}
