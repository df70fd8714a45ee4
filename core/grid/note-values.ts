import type { Grid } from '../song';
import { tempoAt } from './grid';

/**
 * A typed note value as a time: `1/8`, `1/4.` with a dot, `1/8t` as a triplet.
 * @returns seconds at the tempo of a place; null for what is no note value
 */
export function noteSeconds(text: string, grid: Grid, quarter = 0): number | null {
  const match = /^(\d+)\s*\/\s*(\d+)\s*(\.|t)?$/i.exec(text.trim());
  if (!match || Number(match[2]) === 0 || Number(match[1]) === 0) return null;
  const factor = match[3] === '.' ? 1.5 : match[3] ? 2 / 3 : 1;
  return (((4 * Number(match[1])) / Number(match[2])) * factor * 60) / tempoAt(grid, quarter);
}
