/** Words in braces that a pattern of file names may hold, and what they stand for. */
export const PATTERN_WORDS = {
  song: 'title of the song',
  part: 'part, or loop; nothing for the whole song',
  strip: 'track, group or return; “mix” for the mix',
  number: 'place in the order, 01 to 99',
} as const;
export type PatternWord = keyof typeof PATTERN_WORDS;

/** Names that no file has on some systems. */
const RESERVED = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
const MOST_LETTERS = 150;

/** Text as a part of a file name that every system accepts: letters and digits of any script, hyphens for blanks. */
export function plainName(text: string): string {
  const plain = text
    .normalize('NFC')
    .replace(/[^\p{L}\p{M}\p{N}\- _]+/gu, '')
    .trim()
    .replace(/[\s_]+/g, '-')
    .replace(/-{2,}/g, '-')
    .replace(/^-+|-+$/g, '');
  return RESERVED.test(plain) ? `${plain}-` : [...plain].slice(0, MOST_LETTERS).join('');
}

/** The words of a pattern that stand for nothing, as they were written. */
export const unknownWords = (pattern: string): string[] =>
  [...pattern.matchAll(/\{([^}]*)\}/g)].map(([, word]) => word).filter((word) => !(word in PATTERN_WORDS));

/** A file name, without its ending, by a pattern: `{song} {part} {strip}` is `Lantern-Ferry-Refrain-Cello`. */
export function nameByPattern(pattern: string, words: Record<PatternWord, string>): string {
  const filled = pattern.replace(/\{(song|part|strip|number)\}/g, (_, word: PatternWord) => words[word]);
  return plainName(filled) || 'sound';
}

/** The name, or the name with a number where it is taken; it is taken from now on. Systems do not tell capitals apart. */
export function unlike(name: string, taken: Set<string>): string {
  let free = name;
  for (let i = 2; taken.has(free.toLowerCase()); i++) free = `${name}-${i}`;
  taken.add(free.toLowerCase());
  return free;
}
