import type { KeyboardEvent } from 'react';
import { legalOrder, ORDERS } from '@/core/filters';
import { FREQUENCY_RANGE_HZ, Q_RANGE, type BandSettings, type Figure } from '@/core/song';

/** How far a key moves a value: Shift is fine, Alt is coarse. */
export type StepSize = 'fine' | 'plain' | 'coarse';

export function stepSize(event: Pick<KeyboardEvent, 'shiftKey' | 'altKey'>): StepSize {
  return event.shiftKey ? 'fine' : event.altKey ? 'coarse' : 'plain';
}

const OCTAVES: Record<StepSize, number> = { fine: 1 / 120, plain: 1 / 24, coarse: 1 / 3 };
const DECIBELS: Record<StepSize, number> = { fine: 0.1, plain: 0.5, coarse: 3 };
const WIDTHS: Record<StepSize, number> = { fine: 1.02, plain: 1.1, coarse: 1.5 };

const clamp = (value: number, { min, max }: { min: number; max: number }) => Math.min(max, Math.max(min, value));

/** Frequencies are kept to four digits, which is finer than 1 cent. */
export const tidyHz = (hz: number) => clamp(Number(hz.toPrecision(4)), FREQUENCY_RANGE_HZ);
export const tidyDb = (db: number, range: { min: number; max: number }) => clamp(Math.round(db * 10) / 10, range);
export const tidyQ = (q: number) => clamp(Number(q.toPrecision(4)), Q_RANGE);

export const stepHz = (hz: number, direction: 1 | -1, size: StepSize) => tidyHz(hz * 2 ** (direction * OCTAVES[size]));
export const stepDb = (db: number, direction: 1 | -1, size: StepSize, range: { min: number; max: number }) =>
  tidyDb(db + direction * DECIBELS[size], range);
/** @param direction +1 wider, −1 narrower */
export const stepQ = (q: number, direction: 1 | -1, size: StepSize) => tidyQ(q * WIDTHS[size] ** -direction);

/** Steps along a straight scale, by the unit; times of a scale of ratios go by these. */
const SHARES: Record<StepSize, number> = { fine: 1 / 500, plain: 1 / 100, coarse: 1 / 10 };
const RATIOS: Record<StepSize, number> = { fine: 1.01, plain: 1.06, coarse: 1.5 };

/** The next value of a processor's figure. */
export function stepFigure(value: number, direction: 1 | -1, size: StepSize, figure: Figure): number {
  if (figure.unit === 'dB') return stepDb(value, direction, size, figure);
  const next =
    figure.scale === 'logarithmic'
      ? value * RATIOS[size] ** direction
      : value + direction * SHARES[size] * (figure.max - figure.min);
  return tidyFigure(next, figure);
}

/** Kept to four digits, within its range. */
export const tidyFigure = (value: number, figure: Figure) =>
  figure.unit === 'dB' ? tidyDb(value, figure) : clamp(Number(value.toPrecision(4)), figure);

/** The next order of the band's family. */
export function stepOrder(band: Pick<BandSettings, 'family' | 'order'>, direction: 1 | -1): number {
  return legalOrder(band.family, legalOrder(band.family, band.order) + direction * ORDERS[band.family].step);
}

/**
 * The order that a vertical drag gives: the first pixels move the corner alone.
 * @param dy pixels, up is negative and steeper
 */
export function draggedOrder(
  band: Pick<BandSettings, 'family' | 'order'>,
  dy: number,
  slop: number,
  perOrder: number,
): number {
  const beyond = Math.sign(dy) * Math.max(0, Math.abs(dy) - slop);
  return legalOrder(band.family, band.order - Math.round(beyond / perOrder));
}

/** Where Home, End and the Page keys bring a frequency: to an end of what is heard, or an octave on. @returns Hz; null for other keys */
export function rangeKeyHz({ key }: Pick<KeyboardEvent, 'key'>, hz: number): number | null {
  switch (key) {
    case 'Home':
      return LOWEST_HEARD_HZ;
    case 'End':
      return HIGHEST_HEARD_HZ;
    case 'PageUp':
      return tidyHz(hz * 2);
    case 'PageDown':
      return tidyHz(hz / 2);
    default:
      return null;
  }
}
const LOWEST_HEARD_HZ = 20;
const HIGHEST_HEARD_HZ = 20_000;

/** The key's direction on an axis; null for other keys. */
export function arrowDirection(event: Pick<KeyboardEvent, 'key'>): { axis: 'x' | 'y'; direction: 1 | -1 } | null {
  switch (event.key) {
    case 'ArrowLeft':
      return { axis: 'x', direction: -1 };
    case 'ArrowRight':
      return { axis: 'x', direction: 1 };
    case 'ArrowUp':
      return { axis: 'y', direction: 1 };
    case 'ArrowDown':
      return { axis: 'y', direction: -1 };
    default:
      return null;
  }
}
