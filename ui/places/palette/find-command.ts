import { folded } from '@/core/formats';

const wordsOf = (text: string) => folded(text).match(/[\p{L}\p{N}]+/gu) ?? [];

/** Shorter words say too little once one of their letters is another. */
const LEAST_LETTERS = 4;

/** True where a word begins another but for one slip: a letter too many, one too few, another one, or two in the wrong order; not the first. */
function slips(typed: string, word: string): boolean {
  if (typed.length < LEAST_LETTERS) return false;
  let at = 0;
  while (at < typed.length && typed[at] === word[at]) at++;
  if (at === 0) return false;
  const goesOn = (typedFrom: number, wordFrom: number) => word.slice(wordFrom).startsWith(typed.slice(typedFrom));
  const isSwapped = typed[at] === word[at + 1] && typed[at + 1] === word[at] && goesOn(at + 2, at + 2);
  return isSwapped || goesOn(at + 1, at) || goesOn(at, at + 1) || goesOn(at + 1, at + 1);
}

/**
 * How well a command answers what was typed, 0 to 1: each word that was typed begins a word of its name, stands within one, or begins one of
 * the other words by which it is looked for. Letters that are strewn over a name are no answer: Enter would do something else.
 * @returns 0 where one of the words is nowhere
 */
export const answer = (name: string, typed: string, otherWords: readonly string[] = []): number =>
  markOf(name, typed, otherWords, false);

/** The same, where each word may be typed with one slip: for what no command answers. */
export const nearAnswer = (name: string, typed: string, otherWords: readonly string[] = []): number =>
  markOf(name, typed, otherWords, true);

function markOf(name: string, typed: string, otherWords: readonly string[], mayTakeSlips: boolean): number {
  const [own, other] = [wordsOf(name), wordsOf(otherWords.join(' '))];
  const marks = wordsOf(typed).map((word): number => {
    if (own.some((candidate) => candidate.startsWith(word))) return 1;
    if (other.some((candidate) => candidate.startsWith(word))) return 0.7;
    if (own.some((candidate) => candidate.includes(word))) return 0.5;
    return mayTakeSlips && [...own, ...other].some((candidate) => slips(word, candidate)) ? 0.3 : 0;
  });
  if (marks.includes(0)) return 0;
  const isBeginning = folded(name).startsWith(folded(typed.trim()));
  return Math.min(
    1,
    (isBeginning ? 0.2 : 0) + 0.8 * (marks.reduce((sum, mark) => sum + mark, 0) / Math.max(1, marks.length)),
  );
}
