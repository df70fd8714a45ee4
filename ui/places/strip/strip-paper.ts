import type { Tokens } from '../../kit/theme/tokens';
import type { Span } from '../../window/view/song-view';

/** What the song strip is drawn on. */
export interface StripPaper {
  context: CanvasRenderingContext2D;
  shown: Span;
  /** CSS pixels. */
  wide: number;
  high: number;
  tokens: Tokens;
  perSecond: number;
  /** Where a time lies, CSS pixels from the left. */
  xOf: (seconds: number) => number;
}

export function stripPaper(
  context: CanvasRenderingContext2D,
  shown: Span,
  wide: number,
  high: number,
  tokens: Tokens,
): StripPaper {
  const perSecond = wide / Math.max(1e-9, shown.to - shown.from);
  return { context, shown, wide, high, tokens, perSecond, xOf: (seconds) => (seconds - shown.from) * perSecond };
}
