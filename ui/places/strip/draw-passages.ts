import type { Passage } from '@/core/song';
import type { Span } from '../../window/view/song-view';
import type { StripPaper } from './strip-paper';

/** So many rows of passages that overlap stand one below the other; further ones share the last. */
const ROWS = 3;
const ROW_HEIGHT = 7;
const TOP = 23;
export const BAR_HEIGHT = 5;
/** However short it is, a passage is so wide, px. */
export const LEAST_WIDTH = 3;

export const rowTop = (row: number): number => TOP + ROW_HEIGHT * row;

/** The row of each passage: the first in which nothing stands in its way. */
export function rowsOf(passages: readonly Passage[]): Map<string, number> {
  const ends: number[] = [];
  const rows = new Map<string, number>();
  for (const { id, startSeconds, endSeconds } of [...passages].sort((a, b) => a.startSeconds - b.startSeconds)) {
    const free = ends.findIndex((end) => end <= startSeconds + 1e-6);
    const row = free >= 0 ? free : Math.min(ROWS - 1, ends.length);
    ends[row] = Math.max(ends[row] ?? 0, endSeconds);
    rows.set(id, row);
  }
  return rows;
}

export const passagesWithin = (passages: readonly Passage[], { from, to }: Span): Passage[] =>
  passages.filter(({ startSeconds, endSeconds }) => endSeconds > from && startSeconds < to);

/** What is drawn of the passages. */
export interface PassagePicture {
  passages: readonly Passage[];
  rows: ReadonlyMap<string, number>;
  openId: string | null;
}

/** Passages as bars in their rows, slanted where they fade, the open one in the accent's colour and above the others. */
export function drawPassages(
  { context, shown, xOf, perSecond, tokens }: StripPaper,
  { passages, rows, openId }: PassagePicture,
): void {
  const inSight = passagesWithin(passages, shown);
  const isOpen = ({ id }: Passage) => id === openId;
  for (const passage of [...inSight.filter((span) => !isOpen(span)), ...inSight.filter(isOpen)]) {
    const { id, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds, enabled } = passage;
    const left = xOf(startSeconds);
    const width = Math.max(LEAST_WIDTH, (endSeconds - startSeconds) * perSecond);
    const top = rowTop(rows.get(id) ?? 0);
    const ramp = (seconds: number) => width * Math.min(1, seconds / (endSeconds - startSeconds));
    context.fillStyle = isOpen(passage) ? tokens.accent : enabled ? tokens.ink : tokens.rule;
    context.globalAlpha = isOpen(passage) ? 1 : 0.75;
    context.beginPath();
    context.moveTo(left, top + BAR_HEIGHT);
    context.lineTo(left + ramp(fadeInSeconds), top);
    context.lineTo(left + width - ramp(fadeOutSeconds), top);
    context.lineTo(left + width, top + BAR_HEIGHT);
    context.fill();
  }
  context.globalAlpha = 1;
}
