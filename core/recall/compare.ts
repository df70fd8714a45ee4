import type { Recall, RecallStrip } from './recall';

/** A thing that is set otherwise in two songs or drafts; null where one of them does not have it. */
export interface Difference {
  strip: string;
  label: string;
  first: string | null;
  second: string | null;
}

const ON = 'on';

/** All that is set of a strip, by what it is called; things of one name are numbered. */
function figuresOf({ lines, processors }: RecallStrip): Map<string, string> {
  const found = new Map<string, string>();
  const put = (label: string, text: string) => {
    let free = label;
    for (let i = 2; found.has(free); i++) free = `${label} (${i})`;
    found.set(free, text);
  };
  for (const { label, text } of lines) put(label, text);
  for (const { name, isOn, lines: set } of processors) {
    put(name, isOn ? ON : 'off');
    for (const { label, text, why } of set) put(`${name}: ${label}`, why ? `${text} (${why})` : text);
  }
  return found;
}

const passageStrip = ({ passages }: Recall): RecallStrip => ({
  id: '',
  name: 'Passages',
  kind: 'master',
  lines: passages.map(({ name, when, isOn, changes }) => ({
    label: name,
    text: [`${when}${isOn ? '' : ', off'}`, ...changes].join('; '),
    why: '',
  })),
  processors: [],
  curveDb: null,
});

/** The strips of two states side by side: by their ids, else by their names. */
function pairsOf(first: Recall, second: Recall): [RecallStrip | null, RecallStrip | null][] {
  const left = [...first.strips, passageStrip(first)];
  const rest = new Set([...second.strips, passageStrip(second)]);
  const pairs = left.map((strip): [RecallStrip, RecallStrip | null] => {
    const same =
      [...rest].find(({ id }) => id === strip.id) ??
      [...rest].find(({ name, kind }) => kind === strip.kind && name.toLowerCase() === strip.name.toLowerCase());
    if (same) rest.delete(same);
    return [strip, same ?? null];
  });
  return [...pairs, ...[...rest].map((strip): [null, RecallStrip] => [null, strip])];
}

/** That a processor is there says nothing beyond what is set of it. */
const differs = (first: string | undefined, second: string | undefined) =>
  first !== second && !(first === undefined && second === ON) && !(second === undefined && first === ON);

/** What differs between two songs, or two states of one, strip by strip; nothing where they are alike. */
export function compareRecalls(first: Recall, second: Recall): Difference[] {
  return pairsOf(first, second).flatMap(([left, right]) => {
    const [leftFigures, rightFigures] = [left, right].map((strip) =>
      strip ? figuresOf(strip) : new Map<string, string>(),
    );
    const strip = (right ?? left)!.name;
    const labels = new Set([...leftFigures.keys(), ...rightFigures.keys()]);
    return [...labels]
      .filter((label) => differs(leftFigures.get(label), rightFigures.get(label)))
      .map((label) => ({
        strip,
        label,
        first: leftFigures.get(label) ?? null,
        second: rightFigures.get(label) ?? null,
      }));
  });
}
