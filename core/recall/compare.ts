import type { Recall, RecallStrip } from './recall';

/** A thing that is set otherwise in two songs or drafts; null where one of them does not have it. */
export interface Difference {
  strip: string;
  label: string;
  one: string | null;
  other: string | null;
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
function pairsOf(one: Recall, other: Recall): [RecallStrip | null, RecallStrip | null][] {
  const left = [...one.strips, passageStrip(one)];
  const rest = new Set([...other.strips, passageStrip(other)]);
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
const differs = (one: string | undefined, other: string | undefined) =>
  one !== other && !(one === undefined && other === ON) && !(other === undefined && one === ON);

/** What differs between two songs, or two states of one, strip by strip; nothing where they are alike. */
export function compareRecalls(one: Recall, other: Recall): Difference[] {
  return pairsOf(one, other).flatMap(([left, right]) => {
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
        one: leftFigures.get(label) ?? null,
        other: rightFigures.get(label) ?? null,
      }));
  });
}
