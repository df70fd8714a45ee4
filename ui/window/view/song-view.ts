import { songLengthFrames } from '@/core/song';
import { deskStore } from '../desk/desk';
import { songOf } from '../song/live-song';

/** A stretch of the song, in seconds. */
export interface Span {
  from: number;
  to: number;
}

/** What the song strip shows of the song. */
interface SongView {
  /** null: all of it, however long it is. */
  span: Span | null;
  /** @param factor below 1 shows less. @param at what stays where it is, seconds */
  zoom: (factor: number, at: number) => void;
  /** @param by seconds, towards the end where positive */
  scroll: (by: number) => void;
  /** Shows exactly a stretch, as far as the song has it. */
  place: (span: Span) => void;
  /** Shows a stretch with some room around it; null for the whole song. */
  show: (span: Span | null) => void;
  /** Brings a place into sight. */
  reveal: (at: number) => void;
}

/** The least that is shown, about half a bar. */
const SHORTEST = 1;
/** Room around a stretch that is shown, as a share of it. */
const ROOM = 0.05;

export const spanOr = (span: Span | null, length: number): Span => span ?? { from: 0, to: length };

/** A span within the song; null where it holds all of it. */
export function clampedSpan(from: number, width: number, length: number): Span | null {
  if (width >= length) return null;
  const wide = Math.max(Math.min(SHORTEST, length), width);
  const begin = Math.min(length - wide, Math.max(0, from));
  return { from: begin, to: begin + wide };
}

export function zoomedSpan({ from, to }: Span, factor: number, at: number, length: number): Span | null {
  const width = Math.max(SHORTEST, (to - from) * factor);
  // What was at the pointer stays at it.
  return clampedSpan(at - ((at - from) / (to - from)) * width, width, length);
}

export const useSongView = deskStore<SongView>((desk) => (set, get) => {
  const length = () => songLengthFrames(songOf(desk)) / songOf(desk).rateHz;
  const now = () => spanOr(get().span, length());
  const move = (from: number) => set({ span: clampedSpan(from, now().to - now().from, length()) });
  return {
    span: null,
    zoom: (factor, at) => set({ span: zoomedSpan(now(), factor, at, length()) }),
    scroll: (by) => move(now().from + by),
    place: ({ from, to }) => set({ span: clampedSpan(from, to - from, length()) }),
    show: (span) => {
      const room = span ? ROOM * (span.to - span.from) : 0;
      set({ span: span && clampedSpan(span.from - room, span.to - span.from + 2 * room, length()) });
    },
    reveal: (at) => {
      const { from, to } = now();
      if (at < from || at > to) move(at - ROOM * (to - from));
    },
  };
});
