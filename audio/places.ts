import { PAGE_FRAMES, PIECE_FRAMES, PIECES_OF_PAGE } from '@/core/engine/source';

/** Pages and their pieces in the order in which they may be heard. */

/** What lies before a place counts so many times its distance, and so does what lies at a place that is not the playhead. */
export const BEHIND = 4;
export const ELSEWHERE = 4;
/** It comes after the page at the playhead and the next one, which are needed first. */
const AFTER = 1.5;

export const pageOf = (frame: number) => Math.floor(frame / PAGE_FRAMES);
export const pieceOf = (frame: number) => Math.floor(frame / PIECE_FRAMES);
export const pageOfPiece = (piece: number) => Math.floor(piece / PIECES_OF_PAGE);
/** The pieces from one on, before another. */
export const piecesIn = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => from + i);
export const piecesOfPage = (page: number) => piecesIn(page * PIECES_OF_PAGE, (page + 1) * PIECES_OF_PAGE);

/** Where the song stands and may stand next, in pages. */
export interface Places {
  at: number;
  /** The first page of the loop and its last; null where nothing is looped: then it begins again at the first page of the song. */
  again: { first: number; last: number } | null;
  /** The pieces that are heard next, in two steps. */
  next: readonly (readonly number[])[];
}

/**
 * How soon a page may be played, in pages: what follows first, round the loop where the song stands in one; what lies before, and what lies where it may start
 * again, counts as farther.
 */
export function distanceOf(page: number, { at, again }: Places): number {
  const from = (place: number) => (page >= place ? page - place : (place - page) * BEHIND);
  const beginning = again?.first ?? 0;
  if (!again || at < again.first || at > again.last) return Math.min(from(at), AFTER + from(beginning) * ELSEWHERE);
  if (page >= at && page <= again.last) return page - at;
  if (page >= again.first && page < at) return again.last - at + 1 + page - again.first;
  // Only heard when the loop is left.
  return from(at) * ELSEWHERE;
}
