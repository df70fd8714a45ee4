import {
  figuresOf,
  holdsAt,
  partIn,
  shareAt,
  stripWithin,
  valueOf,
  type FigurePart,
  type StripPassage,
} from '../passages';
import { equalizersOf, givesWay, type Band, type FigureRef, type Strip } from '../song';
import { MOVED_EVERY } from './follow';

/** A stretch of a strip over which nothing moves, or everything straight on. */
export interface Piece {
  from: number;
  start: Strip;
  /** Null where nothing moves. */
  end: Strip | null;
  /** Where it ends, and what it is within; of what moves. */
  until?: number;
  at?: (frame: number) => Strip;
}

/** The finest steps of what moves: of an octave, a decibel, a whole range. Between them the filters themselves are interpolated. */
const PER_OCTAVE = 12;
const PER_DB = 2;
const PER_RANGE = 32;
/** What runs in steps takes so many more of them. */
const FINER = 4;
const MOST_STEPS = 400;
/** The frames at which something about a passage begins or ends. */
function bordersOf({ passage, changes }: StripPassage, rateHz: number): number[] {
  const { startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds } = passage;
  const points = changes.flatMap((change) => change.points.map(({ atSeconds }) => startSeconds + atSeconds));
  return [startSeconds, startSeconds + fadeInSeconds, ...points, endSeconds - fadeOutSeconds, endSeconds]
    .filter((at) => at >= startSeconds && at <= endSeconds)
    .map((at) => Math.round(at * rateHz));
}

/** A place between two borders, where blocks are cut in any case. */
export const knot = (from: number, to: number, share: number) =>
  share === 0
    ? from
    : share === 1
      ? to
      : Math.min(to, Math.max(from, MOVED_EVERY * Math.round((from + share * (to - from)) / MOVED_EVERY)));

/** How many steps a figure takes from one value to another. */
function stepsOf(first: FigurePart | undefined, second: FigurePart | undefined, of: FigureRef['of']): number {
  if (!first || !second) return 1;
  let most = 1;
  for (const [field, figure] of Object.entries(figuresOf(of, first))) {
    const [from, to] = [valueOf(first, field), valueOf(second, field)];
    if (figure.kind === 'switch' || typeof from !== 'number' || typeof to !== 'number' || from === to) continue;
    const moved =
      figure.scale === 'logarithmic'
        ? PER_OCTAVE * Math.abs(Math.log2(to / from))
        : figure.unit === 'dB'
          ? PER_DB * Math.abs(to - from)
          : (PER_RANGE * Math.abs(to - from)) / (figure.max - figure.min);
    const isStepped = of === 'processor' || (of === 'band' && givesWay(first as Band));
    most = Math.max(most, isStepped ? FINER * moved : moved);
  }
  return Math.min(MOST_STEPS, Math.ceil(most));
}

/** The stretches of a strip over the song, from the song's beginning on: as it is without passages first and last. */
export function piecesOf(strip: Strip, passages: readonly StripPassage[], rateHz: number): Piece[] {
  const borders = [...new Set(passages.flatMap((passage) => bordersOf(passage, rateHz)))].sort((a, b) => a - b);
  const pieces: Piece[] = [{ from: -Infinity, start: strip, end: null }];
  for (let i = 0; i + 1 < borders.length; i++) {
    const [from, to] = [borders[i], borders[i + 1]];
    const now = passages.filter(({ passage }) => holdsAt(passage, (from + to) / 2 / rateHz));
    if (now.length === 0) {
      pieces.push({ from, start: strip, end: null });
      continue;
    }
    const at = (frame: number) => stripWithin(strip, now, frame / rateHz);
    const moves = now.some(
      ({ passage, changes }) =>
        shareAt(passage, from / rateHz) !== shareAt(passage, to / rateHz) ||
        changes.some(({ points }) => points.length > 1),
    );
    if (!moves) {
      // Half a sample off its borders, where rounding decides nothing.
      pieces.push({ from, start: at((from + to) / 2), end: null });
      continue;
    }
    const [start, end] = [at(from), at(to)];
    const steps = Math.max(
      ...now.flatMap(({ changes }) =>
        changes.map(({ figure }) => stepsOf(partIn(start, figure), partIn(end, figure), figure.of)),
      ),
    );
    const count = Math.max(1, Math.min(steps, Math.floor((to - from) / MOVED_EVERY)));
    for (let n = 0; n < count; n++) {
      const [begins, ends] = [n, n + 1].map((step) => knot(from, to, step / count));
      if (ends > begins)
        pieces.push({
          from: begins,
          start: begins === from ? start : at(begins),
          end: ends === to ? end : at(ends),
          until: ends,
          at,
        });
    }
  }
  if (borders.length > 0) pieces.push({ from: borders[borders.length - 1], start: strip, end: null });
  return pieces;
}

/** All that a strip's equalizers of linear phase become: what their kernels are designed from. What holds longest comes first. */
export function stripsOverTime(strip: Strip, passages: readonly StripPassage[], rateHz: number): Strip[] {
  if (equalizersOf(strip.chain).every(({ phase }) => phase !== 'linear')) return [strip];
  const pieces = piecesOf(strip, passages, rateHz);
  const lasting = pieces.map(({ start, from }, i) => ({ start, frames: (pieces[i + 1]?.from ?? Infinity) - from }));
  return lasting
    .sort((first, second) => (second.frames > first.frames ? 1 : second.frames < first.frames ? -1 : 0))
    .map(({ start }) => start);
}
