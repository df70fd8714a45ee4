import type { Grid } from '../song';

/** Where bars and beats of a song lie: places in quarter notes from the beginning of bar 1, and in seconds. */

/** A grid of one tempo and one metre. */
export const plainGrid = (
  bpm: number,
  startSeconds = 0,
  beats = 4,
  unit: Grid['metres'][number]['unit'] = 4,
): Grid => ({
  startSeconds,
  tempos: [{ quarter: 0, bpm }],
  metres: [{ bar: 1, beats, unit }],
});

const secondsPerQuarter = (bpm: number) => 60 / bpm;

/** The time of a place. What lies before bar 1 has the first tempo. @param quarter any */
export function secondsAt({ startSeconds, tempos }: Grid, quarter: number): number {
  let seconds = startSeconds;
  for (let i = 0; i < tempos.length; i++) {
    const until = tempos[i + 1]?.quarter ?? Infinity;
    seconds += (Math.min(until, quarter) - tempos[i].quarter) * secondsPerQuarter(tempos[i].bpm);
    if (quarter <= until) break;
  }
  return seconds;
}

/** The place of a time. */
export function quarterAt({ startSeconds, tempos }: Grid, seconds: number): number {
  let from = startSeconds;
  for (let i = 0; i < tempos.length; i++) {
    const { quarter, bpm } = tempos[i];
    const until = tempos[i + 1] ? from + (tempos[i + 1].quarter - quarter) * secondsPerQuarter(bpm) : Infinity;
    if (seconds <= until) return quarter + (seconds - from) / secondsPerQuarter(bpm);
    from = until;
  }
  return 0;
}

/** The tempo that holds at a place, quarter notes a minute. */
export const tempoAt = ({ tempos }: Grid, quarter: number): number =>
  tempos.findLast((tempo) => tempo.quarter <= quarter + 1e-9)?.bpm ?? tempos[0].bpm;

/** The metre of a bar. */
export const metreAt = ({ metres }: Grid, bar: number): Grid['metres'][number] =>
  metres.findLast((metre) => metre.bar <= bar) ?? metres[0];

/** Quarter notes of a beat, and of a bar. */
export const beatQuarters = ({ unit }: Pick<Grid['metres'][number], 'unit'>): number => 4 / unit;
export const barQuarters = (metre: Grid['metres'][number]): number => metre.beats * beatQuarters(metre);

/** Where a bar begins. @param bar any whole number; 0 and below lie before bar 1 */
export function barStart({ metres }: Grid, bar: number): number {
  let quarter = 0;
  for (let i = 0; i < metres.length; i++) {
    const until = metres[i + 1]?.bar ?? Infinity;
    quarter += (Math.min(until, bar) - metres[i].bar) * barQuarters(metres[i]);
    if (bar <= until) break;
  }
  return quarter;
}

/** So little before a line counts as on it. */
const ROUNDING = 1e-6;

/** The bar of a place, and the beat in it, counted from 1 with its fraction. */
export function barAt(grid: Grid, quarter: number): { bar: number; beat: number } {
  let bar = 1;
  const { metres } = grid;
  for (let i = 0; i < metres.length; i++) {
    const from = barStart(grid, metres[i].bar);
    const next = metres[i + 1];
    if (next && quarter >= barStart(grid, next.bar) - ROUNDING) continue;
    bar = metres[i].bar + Math.floor((quarter - from) / barQuarters(metres[i]) + ROUNDING);
    break;
  }
  const beat = (quarter - barStart(grid, bar)) / beatQuarters(metreAt(grid, bar));
  return { bar, beat: Math.max(0, beat) + 1 };
}

/** What times stick to: a bar, or a share of a beat. */
export const SNAPS = ['bar', 'beat', 'half', 'third', 'quarter'] as const;
export type Snap = (typeof SNAPS)[number];
const SHARES = { beat: 1, half: 1 / 2, third: 1 / 3, quarter: 1 / 4 } as const;

/** The line that is nearest to a time. @param by so many lines after it */
export function snapped(grid: Grid, seconds: number, snap: Snap, by = 0): number {
  const quarter = quarterAt(grid, seconds);
  const { bar } = barAt(grid, quarter);
  const start = barStart(grid, bar);
  if (snap === 'bar') {
    const isLater = quarter - start > barStart(grid, bar + 1) - quarter;
    return secondsAt(grid, barStart(grid, bar + by + (isLater ? 1 : 0)));
  }
  const step = SHARES[snap] * beatQuarters(metreAt(grid, bar));
  const line = start + (Math.round((quarter - start) / step) + by) * step;
  return secondsAt(grid, line);
}

/** A line of the grid. */
export interface GridLine {
  seconds: number;
  bar: number;
  /** From 1; 1 is the bar's own line. */
  beat: number;
}

/** Bars are numbered this far apart when there is no room for more: powers of two, as phrases are. */
const APART = [1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024];

/**
 * The lines of a stretch, as many as there is room for: beats, bars, or some of the bars.
 * @param closest how near lines may be to each other, seconds
 */
export function gridLines(grid: Grid, from: number, to: number, closest: number): GridLine[] {
  const lines: GridLine[] = [];
  const first = barAt(grid, quarterAt(grid, from)).bar;
  const last = barAt(grid, quarterAt(grid, to)).bar;
  const barSeconds = (to - from) / Math.max(1, last - first + 1);
  const apart = APART.find((bars) => bars * barSeconds >= closest) ?? 1024;
  // Numbered from 1: every second line is at 1, 3, 5.
  const begin = first - ((((first - 1) % apart) + apart) % apart);
  for (let bar = begin; bar <= last; bar += apart) {
    const start = barStart(grid, bar);
    const metre = metreAt(grid, bar);
    const beats =
      apart === 1 && secondsAt(grid, start + beatQuarters(metre)) - secondsAt(grid, start) >= closest ? metre.beats : 1;
    for (let beat = 0; beat < beats; beat++) {
      const seconds = secondsAt(grid, start + beat * beatQuarters(metre));
      if (seconds >= from && seconds <= to) lines.push({ seconds, bar, beat: beat + 1 });
    }
  }
  return lines;
}

/** A place as musicians write it: bar and beat, and hundredths of it where it is not on one. */
export function writePlace(grid: Grid, seconds: number): string {
  const { bar, beat } = barAt(grid, quarterAt(grid, seconds));
  const whole = Math.floor(beat + 0.005);
  const hundredths = Math.round((beat - whole) * 100);
  return `${bar}.${whole}${hundredths > 0 ? `+${String(hundredths).padStart(2, '0')}` : ''}`;
}

/** The grid with another tempo or metre from a bar on; what lies behind keeps its own places in bars. */
export function withTempoFrom(grid: Grid, bar: number, bpm: number): Grid {
  const quarter = barStart(grid, bar);
  const others = grid.tempos.filter((tempo) => Math.abs(tempo.quarter - quarter) > ROUNDING);
  return { ...grid, tempos: [...others, { quarter, bpm }].sort((a, b) => a.quarter - b.quarter) };
}
export function withMetreFrom(grid: Grid, bar: number, beats: number, unit: Grid['metres'][number]['unit']): Grid {
  const others = grid.metres.filter((metre) => metre.bar !== bar);
  return { ...grid, metres: [...others, { bar, beats, unit }].sort((a, b) => a.bar - b.bar) };
}

/** The grid at half or double the tempo, with as much in a bar as before: tempos and metres stay at their times, as near as a whole bar allows. */
export const pacedGrid = ({ startSeconds, tempos, metres }: Grid, times: 0.5 | 2): Grid => ({
  startSeconds,
  tempos: tempos.map(({ quarter, bpm }) => ({ quarter: quarter * times, bpm: bpm * times })),
  metres: metres
    .map((metre) => ({ ...metre, bar: 1 + Math.round((metre.bar - 1) * times) }))
    .filter(({ bar }, i, all) => all[i + 1]?.bar !== bar),
});

/** The grid with its bars a beat later; so that bar 1 stays near where it was, a whole bar earlier where that lies within the song. */
export function barsLater(grid: Grid): Grid {
  const [metre] = grid.metres;
  const beat = beatQuarters(metre);
  const earlier = beat - barQuarters(metre);
  const by = secondsAt(grid, earlier) >= 0 ? earlier : beat;
  const tempos = grid.tempos
    .map(({ quarter, bpm }) => ({ quarter: quarter === 0 ? 0 : Math.max(0, quarter - by), bpm }))
    .filter(({ quarter }, i, all) => all[i + 1]?.quarter !== quarter);
  return { ...grid, startSeconds: secondsAt(grid, by), tempos };
}

/** The tempo of some taps, quarter notes a minute: the line through them by least squares; null for fewer than three. @param seconds when they came */
export function tappedTempo(seconds: readonly number[]): number | null {
  if (seconds.length < 3) return null;
  const middle = (seconds.length - 1) / 2;
  const mean = seconds.reduce((sum, at) => sum + at, 0) / seconds.length;
  let [above, below] = [0, 0];
  seconds.forEach((at, i) => {
    above += (i - middle) * (at - mean);
    below += (i - middle) ** 2;
  });
  return above > 0 ? (60 * below) / above : null;
}
