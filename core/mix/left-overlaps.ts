import type { LeftOverlap } from '../song';
import type { Overlap } from './overlaps';

const pairOf = ({ quieterId, louderId }: Pick<Overlap, 'quieterId' | 'louderId'>): [string, string] =>
  quieterId < louderId ? [quieterId, louderId] : [louderId, quieterId];

/** How an overlap is remembered that is left as it is. */
export const asLeft = (overlap: Overlap): LeftOverlap => ({
  trackIds: pairOf(overlap),
  lowHz: Number(overlap.lowHz.toPrecision(4)),
  highHz: Number(overlap.highHz.toPrecision(4)),
});

/** True where an overlap is one that was left: the same two tracks, and at least half of its range, by octaves. */
export function isLeft(overlap: Overlap, left: readonly LeftOverlap[]): boolean {
  const [first, second] = pairOf(overlap);
  const width = Math.log2(overlap.highHz / overlap.lowHz);
  return left.some(({ trackIds, lowHz, highHz }) => {
    const shared = Math.log2(Math.min(highHz, overlap.highHz) / Math.max(lowHz, overlap.lowHz));
    return trackIds[0] === first && trackIds[1] === second && shared >= width / 2;
  });
}
