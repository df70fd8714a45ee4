import { batch, newId, type Edit, type Passage, type PassageChange, type Song } from '../song';
import { between } from './at';
import { figureOf } from './figures';

/** Nothing is shorter, seconds. */
export const SHORTEST_PASSAGE = 0.02;

/** To a millionth of a second: lines of a grid are kept to the sample. */
const tidy = (seconds: number) => Math.max(0, Math.round(seconds * 1e6) / 1e6);

/** A passage without changes. */
export const newPassage = (id: string, name: string, startSeconds: number, endSeconds: number): Passage => ({
  id,
  name,
  startSeconds: tidy(startSeconds),
  endSeconds: tidy(Math.max(endSeconds, startSeconds + SHORTEST_PASSAGE)),
  fadeInSeconds: 0,
  fadeOutSeconds: 0,
  enabled: true,
  changes: [],
});

/** Fades that fit into a length: shortened alike where both together are longer. */
function fitting(
  { fadeInSeconds, fadeOutSeconds }: Passage,
  length: number,
): Pick<Passage, 'fadeInSeconds' | 'fadeOutSeconds'> {
  const scale = Math.min(1, length / Math.max(1e-9, fadeInSeconds + fadeOutSeconds));
  return {
    fadeInSeconds: tidy(fadeInSeconds * scale),
    fadeOutSeconds: tidy(fadeOutSeconds * scale - (scale < 1 ? 1e-6 : 0)),
  };
}

/** Points with their times stretched with the passage. */
const stretched = (changes: readonly PassageChange[], factor: number): PassageChange[] =>
  changes.map((change) => ({
    ...change,
    points: change.points.map((point) => ({ ...point, atSeconds: tidy(point.atSeconds * factor) })),
  }));

/** The edit that puts a passage elsewhere; its lines stretch with it. */
export function placePassage(passage: Passage, startSeconds: number, endSeconds: number): Edit | null {
  const [start, end] = [tidy(startSeconds), tidy(Math.max(endSeconds, startSeconds + SHORTEST_PASSAGE))];
  const { id, changes } = passage;
  const before = passage.endSeconds - passage.startSeconds;
  const length = end - start;
  if (start === passage.startSeconds && end === passage.endSeconds) return null;
  const set: Edit = {
    kind: 'passage.set',
    passageId: id,
    changes: { startSeconds: start, endSeconds: end, ...fitting(passage, length) },
  };
  if (Math.abs(length - before) < 1e-6) return set;
  const lines = stretched(changes, length / before).filter(({ points }) => points.length > 0);
  return batch([
    set,
    ...lines.map(({ figure, value, points }): Edit => ({
      kind: 'passage.figure',
      passageId: id,
      figure,
      changes: { to: { value, points } },
    })),
  ]);
}

/** A copy of a passage at another place. */
export const copiedTo = (passage: Passage, startSeconds: number, id = newId(10)): Passage => ({
  ...passage,
  id,
  startSeconds: tidy(startSeconds),
  endSeconds: tidy(startSeconds + passage.endSeconds - passage.startSeconds),
});

export const addPassage = (song: Song, passage: Passage): Edit => ({
  kind: 'passage.add',
  passage,
  index: song.passages.length,
});

/**
 * The same passage at the same place before, or within, every other part of a name: "before every refrain".
 * @returns null where there is no other
 */
export function repeated(song: Song, passage: Passage): { edit: Edit; places: number } | null {
  const next = song.parts.find(({ startSeconds }) => startSeconds >= passage.endSeconds - 0.05);
  const within = song.parts.findLast(({ startSeconds }) => startSeconds <= passage.startSeconds + 1e-3);
  const isBefore = next !== undefined && Math.abs(next.startSeconds - passage.endSeconds) < 0.05;
  const part = isBefore ? next : within;
  if (!part) return null;
  const offset = passage.startSeconds - part.startSeconds;
  const places = song.parts
    .filter(
      ({ name, startSeconds }) =>
        name === part.name && startSeconds !== part.startSeconds && startSeconds + offset >= 0,
    )
    .map(({ startSeconds }) => startSeconds + offset)
    .filter(
      (at) =>
        !song.passages.some(({ name, startSeconds }) => name === passage.name && Math.abs(startSeconds - at) < 0.02),
    );
  const edit = batch(places.map((at) => addPassage(song, copiedTo(passage, at))));
  return edit && { edit, places: places.length };
}

/** What a passage is split into at a moment: two passages that do together what it did. */
export function split(song: Song, passage: Passage, seconds: number): Edit | null {
  const { startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds, changes } = passage;
  if (seconds - startSeconds < SHORTEST_PASSAGE || endSeconds - seconds < SHORTEST_PASSAGE) return null;
  const at = seconds - startSeconds;
  const cut = (before: boolean): PassageChange[] =>
    changes.map((change) => {
      const figure = figureOf(song, change.figure);
      if (change.points.length === 0 || figure?.kind !== 'figure') return change;
      const next = change.points.findIndex(({ atSeconds }) => atSeconds > at);
      const [a, b] = [change.points[next - 1], change.points[next]];
      const value =
        next < 0
          ? change.points[change.points.length - 1].value
          : next === 0
            ? change.points[0].value
            : between(figure, a.value, b.value, (at - a.atSeconds) / (b.atSeconds - a.atSeconds));
      const points = before
        ? [...change.points.filter(({ atSeconds }) => atSeconds < at), { atSeconds: tidy(at), value }]
        : [
            { atSeconds: 0, value },
            ...change.points
              .filter(({ atSeconds }) => atSeconds > at)
              .map((point) => ({ ...point, atSeconds: tidy(point.atSeconds - at) })),
          ];
      return { ...change, value: points[0].value, points };
    });
  const first = {
    ...passage,
    endSeconds: tidy(seconds),
    fadeInSeconds: Math.min(fadeInSeconds, at),
    fadeOutSeconds: 0,
    changes: cut(true),
  };
  const second = {
    ...passage,
    id: newId(10),
    startSeconds: tidy(seconds),
    fadeInSeconds: 0,
    fadeOutSeconds: Math.min(fadeOutSeconds, endSeconds - seconds),
    changes: cut(false),
  };
  const index = song.passages.findIndex(({ id }) => id === passage.id);
  return batch([
    { kind: 'passage.remove', passageId: passage.id },
    { kind: 'passage.add', passage: first, index },
    { kind: 'passage.add', passage: second, index: index + 1 },
  ]);
}

/** The passages that set a figure which another one sets at the same time: by the id of the one that stands, those that it stands over. */
export function rivals(passages: readonly Passage[], passage: Passage): { over: Passage[]; under: Passage[] } {
  const meets = (other: Passage) =>
    other.id !== passage.id &&
    other.enabled &&
    other.startSeconds < passage.endSeconds &&
    passage.startSeconds < other.endSeconds &&
    other.changes.some(({ figure }) =>
      passage.changes.some((change) => JSON.stringify(change.figure) === JSON.stringify(figure)),
    );
  const isLater = (other: Passage) =>
    other.startSeconds > passage.startSeconds ||
    (other.startSeconds === passage.startSeconds && passages.indexOf(other) > passages.indexOf(passage));
  const all = passage.enabled ? passages.filter(meets) : [];
  return { over: all.filter((other) => !isLater(other)), under: all.filter(isLater) };
}
