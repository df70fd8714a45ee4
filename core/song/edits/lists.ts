import { MOST_BANDS, MOST_BUSES, MOST_DRAFTS, MOST_PASSAGES, MOST_TRACKS } from '../model';
import { MOST_PROCESSORS } from '../processor';
import { gone, refused } from './refusals';

/** What a song is made of, in lists that end somewhere. */
interface Listed {
  what: string;
  /** What holds them. */
  of: string;
  most: number;
}
export const TRACKS: Listed = { what: 'track', of: 'song', most: MOST_TRACKS };
export const BUSES: Listed = { what: 'bus', of: 'song', most: MOST_BUSES };
export const BANDS: Listed = { what: 'band', of: 'equalizer', most: MOST_BANDS };
export const PROCESSORS: Listed = { what: 'processor', of: 'chain', most: MOST_PROCESSORS };
export const DRAFTS: Listed = { what: 'draft', of: 'song', most: MOST_DRAFTS };
export const PASSAGES: Listed = { what: 'passage', of: 'song', most: MOST_PASSAGES };

const plural = (what: string) => (what === 'bus' ? 'buses' : `${what}s`);

/** @throws OrvidError `invalid-input` where a list would grow beyond its end, or an id is taken */
export function insert<T extends { id: string }>(list: T[], item: T, at: number, { what, of, most }: Listed) {
  if (list.length >= most)
    throw refused(
      `A${of === 'equalizer' ? 'n' : ''} ${of} has at most ${most} ${plural(what)}. Remove one, then add this one.`,
    );
  if (list.some((other) => other.id === item.id))
    throw refused(`The ${of} already has a ${what} with the id “${item.id}”.`);
  list.splice(Math.min(at, list.length), 0, item);
}

export function removeById<T extends { id: string }>(list: T[], itemId: string, what: string): void {
  const at = list.findIndex((item) => item.id === itemId);
  if (at < 0) throw gone(what);
  list.splice(at, 1);
}
