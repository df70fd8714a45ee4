import { MOST_CHANGES } from '../model';
import type { FigureRef, Passage, PassageChange, PassageValue } from '../schema';
import { refused } from './refusals';

/** Names a figure within a song. */
export const figureKey = ({ stripId, of, partId, field }: FigureRef) => [stripId, of, partId, field].join('/');

const byFigure = (first: PassageChange, second: PassageChange) =>
  figureKey(first.figure) < figureKey(second.figure) ? -1 : 1;

/** Times are written to a millionth of a second: so much may be lost on the way. */
const ROUNDING_SECONDS = 1e-6;

/** The passage with its changes in their order. @throws OrvidError `invalid-input` where it has no length, longer fades than itself, a figure twice, or a line that runs back */
export function checkedPassage(passage: Passage): Passage {
  const { name, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds, changes } = passage;
  if (!(endSeconds > startSeconds)) throw refused(`“${name}” would end before it begins.`);
  if (fadeInSeconds + fadeOutSeconds > endSeconds - startSeconds + ROUNDING_SECONDS)
    throw refused(`The fades of “${name}” would be longer than the passage itself.`);
  const keys = changes.map(({ figure }) => figureKey(figure));
  if (new Set(keys).size < keys.length) throw refused(`“${name}” sets one figure twice.`);
  changes.forEach(checkPoints);
  if (changes.some((change, i) => i > 0 && byFigure(changes[i - 1], change) > 0))
    passage.changes = [...changes].sort(byFigure);
  return passage;
}

function checkPoints({ points }: PassageValue): void {
  if (points.some(({ atSeconds }, i) => i > 0 && atSeconds < points[i - 1].atSeconds))
    throw refused('The points of a line stand in the order of their times.');
}

export function setFigure({ name, changes }: Passage, figure: FigureRef, to: PassageValue | null): void {
  const key = figureKey(figure);
  const at = changes.findIndex((change) => figureKey(change.figure) >= key);
  const isThere = at >= 0 && figureKey(changes[at].figure) === key;
  if (to) checkPoints(to);
  if (!isThere && to && changes.length >= MOST_CHANGES)
    throw refused(`“${name}” sets ${MOST_CHANGES} figures, which is the most that one passage can.`);
  if (isThere) changes.splice(at, 1, ...(to ? [{ figure, ...to }] : []));
  else if (to) changes.splice(at < 0 ? changes.length : at, 0, { figure, ...to });
}
