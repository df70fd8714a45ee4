/** Text as it is searched: in small letters and without accents, however these are encoded (names of files that come from a Mac hold them apart). */
export const folded = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase();

/** The most of a name that a song holds. */
const NAME_LENGTH = 120;

/** A name, cut where it is longer than a song holds; not within a letter that takes two places. */
export const nameWithin = (text: string): string => text.slice(0, NAME_LENGTH).replace(/[\uD800-\uDBFF]$/, '');
