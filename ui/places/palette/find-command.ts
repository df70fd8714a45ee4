const wordsOf = (text: string) => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

/**
 * How well a command answers what was typed, 0 to 1: each word that was typed begins a word of its name, stands within one, or begins one of
 * the other words by which it is looked for. Letters that are strewn over a name are no answer: Enter would do something else.
 * @returns 0 where one of the words is nowhere
 */
export function answer(name: string, typed: string, otherWords: readonly string[] = []): number {
  const [own, other] = [wordsOf(name), wordsOf(otherWords.join(' '))];
  const marks = wordsOf(typed).map((word): number => {
    if (own.some((candidate) => candidate.startsWith(word))) return 1;
    if (other.some((candidate) => candidate.startsWith(word))) return 0.7;
    return own.some((candidate) => candidate.includes(word)) ? 0.5 : 0;
  });
  if (marks.includes(0)) return 0;
  const isBeginning = name.toLowerCase().startsWith(typed.trim().toLowerCase());
  return Math.min(
    1,
    (isBeginning ? 0.2 : 0) + 0.8 * (marks.reduce((sum, mark) => sum + mark, 0) / Math.max(1, marks.length)),
  );
}
