import type { Loop, SongPart } from '@/core/song';
import { SERIF } from '../../kit/theme/tokens';
import type { StripPaper } from './strip-paper';

const PART_FONT = `italic 400 12.5px ${SERIF}`;
/** Where a part's name stands behind its line, and its baseline, px. */
const NAME_INDENT = 6;
const NAME_BASELINE = 12;
/** Below the lines of parts there is room for the loop. */
const PART_FOOT = 5;

/** Parts as lines, each with its name, which stays in sight while the part lasts and ends where the next begins. */
export function drawParts({ context, xOf, wide, high, tokens }: StripPaper, parts: readonly SongPart[]): void {
  context.font = PART_FONT;
  parts.forEach(({ name, startSeconds }, i) => {
    const left = xOf(startSeconds);
    const right = xOf(parts[i + 1]?.startSeconds ?? Infinity);
    if (right <= 0 || left >= wide) return;
    context.fillStyle = tokens.rule;
    context.fillRect(Math.round(left), 0, 1, high - PART_FOOT);
    context.save();
    context.beginPath();
    context.rect(left, 0, Math.min(wide, right) - left, high);
    context.clip();
    context.fillStyle = tokens.soft;
    context.fillText(name, Math.max(0, left) + NAME_INDENT, NAME_BASELINE);
    context.restore();
  });
}

/** How high the loop's bracket is, how thick below and at its ends, and how far above the bottom it stands, px. */
const BRACKET = { high: 8, thick: 3, ends: 2.5, above: 1 };

/** The loop as a bracket that is open above. */
export function drawLoopBracket(
  { context, xOf, high, tokens }: StripPaper,
  { startSeconds, endSeconds, enabled }: Loop,
): void {
  const [left, right] = [startSeconds, endSeconds].map(xOf);
  const bottom = high - BRACKET.above;
  context.fillStyle = enabled ? tokens.claim : tokens.soft;
  context.fillRect(left, bottom - BRACKET.thick, right - left, BRACKET.thick);
  context.fillRect(left, bottom - BRACKET.high, BRACKET.ends, BRACKET.high);
  context.fillRect(right - BRACKET.ends, bottom - BRACKET.high, BRACKET.ends, BRACKET.high);
}

/** The place at which the next passage begins, or ends, as a dashed line. */
export function drawMark({ context, xOf, high, tokens }: StripPaper, seconds: number): void {
  context.fillStyle = tokens.accent;
  for (let y = 20; y < high - 8; y += 7) context.fillRect(xOf(seconds), y, 2, 4);
}

/** The playhead, while it does not stand there by itself. */
export function drawPlayhead({ context, xOf, high, tokens }: StripPaper, seconds: number): void {
  context.fillStyle = tokens.accent;
  context.fillRect(Math.round(xOf(seconds)) - 1, 0, 2, high);
}
