import type { PassageChange } from '../song';
import { between } from './at';
import type { FigureScale } from './figures';

/** Points of a line, in the order of their times. */
export type Points = PassageChange['points'];

/** How far a thinned line may stray: a hundredth of a frequency, a tenth of a decibel, a two-hundredth of any other range. */
function strays({ scale, unit, min, max }: FigureScale, first: number, second: number): number {
  if (scale === 'logarithmic') return Math.abs(Math.log(first / second)) / Math.log(1.01);
  return Math.abs(first - second) / (unit === 'dB' ? 0.1 : (max - min) / 200);
}

/**
 * The few points of a line that keep it within 1 % (what is counted by ratios), 0.1 dB or 0.5 % of its range. Source: D. H. Douglas and
 * T. K. Peucker, "Algorithms for the reduction of the number of points required to represent a digitized line", 1973.
 */
export function thinned(figure: FigureScale, points: Points): Points {
  if (points.length < 3) return points;
  const [first, last] = [points[0], points[points.length - 1]];
  let [worst, at] = [1, -1];
  for (let i = 1; i < points.length - 1; i++) {
    const share = (points[i].atSeconds - first.atSeconds) / Math.max(1e-9, last.atSeconds - first.atSeconds);
    const error = strays(figure, points[i].value, between(figure, first.value, last.value, share));
    if (error > worst) [worst, at] = [error, i];
  }
  if (at < 0) return [first, last];
  return [...thinned(figure, points.slice(0, at + 1)), ...thinned(figure, points.slice(at)).slice(1)];
}

/** A line with what was recorded in the place of what it was there. */
export function overwritten(before: Points, recorded: Points): Points {
  if (recorded.length === 0) return before;
  const [from, to] = [recorded[0].atSeconds, recorded[recorded.length - 1].atSeconds];
  return [
    ...before.filter(({ atSeconds }) => atSeconds < from),
    ...recorded,
    ...before.filter(({ atSeconds }) => atSeconds > to),
  ];
}
