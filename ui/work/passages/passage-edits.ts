import { nameWithin } from '@/core/formats';
import { barAt, barStart, quarterAt, secondsAt } from '@/core/grid';
import { addPassage, copiedTo, newPassage, passagesAt, placePassage, repeated, split } from '@/core/passages';
import { batch, newId, songLengthFrames, type Edit, type Passage } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { deskStore } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { documentOf } from '../../window/song/live-song';
import { openPassageOf, useOpenPassage } from '../../window/song/open-passage';
import { useSongStore } from '../../window/song/song-store';
import { positionSeconds } from '../../window/sound/audio-state';
import { useSession } from '../../window/sound/session-store';
import { snappedTime, steppedTime } from '../../window/view/snap';
import { useSongView } from '../../window/view/song-view';

interface PassageWork {
  /** The passage that is looked at in the panel, open or not. */
  chosenId: string | null;
  choose: (chosenId: string | null) => void;
  /** Where one begins that is being marked by keys. */
  markedSeconds: number | null;
  mark: (markedSeconds: number | null) => void;
  /** What was copied. */
  copied: Passage | null;
  copy: (copied: Passage | null) => void;
}

export const usePassageWork = deskStore<PassageWork>(() => (set) => ({
  chosenId: null,
  choose: (chosenId) => set({ chosenId }),
  markedSeconds: null,
  mark: (markedSeconds) => set({ markedSeconds }),
  copied: null,
  copy: (copied) => set({ copied }),
}));

export const lengthOf = (desk: Desk): number => songLengthFrames(documentOf(desk)) / documentOf(desk).rateHz;

export const passageById = (desk: Desk, passageId: string | null): Passage | undefined =>
  documentOf(desk).passages.find(({ id }) => id === passageId);

/** A name that no passage has yet. */
function freeName(desk: Desk, wanted: string): string {
  const taken = documentOf(desk).passages.map(({ name }) => name);
  if (!taken.includes(wanted)) return wanted;
  for (let i = 2; ; i++) if (!taken.includes(`${wanted} ${i}`)) return `${wanted} ${i}`;
}

/** The part of the song that a moment lies in. */
const partNameAt = (desk: Desk, seconds: number): string | undefined =>
  documentOf(desk).parts.findLast(({ startSeconds }) => startSeconds <= seconds + 1e-3)?.name;

/** Makes a passage, and opens it. */
export function makePassage(desk: Desk, startSeconds: number, endSeconds: number, name?: string): void {
  const start = Math.max(0, startSeconds);
  const end = Math.min(lengthOf(desk), endSeconds);
  if (!(end > start)) {
    tell(desk, 'A passage needs some length: mark where it begins and where it ends.');
    return;
  }
  const passage = newPassage(newId(10), freeName(desk, name ?? partNameAt(desk, start) ?? 'Passage'), start, end);
  if (useSongStore.of(desk).edit(addPassage(documentOf(desk), passage), 'New passage')) openPassage(desk, passage.id);
}

/** Opens a passage: what is changed belongs to it. The playhead goes into it where it is elsewhere and nothing plays. */
export function openPassage(desk: Desk, passageId: string): void {
  const passage = passageById(desk, passageId);
  if (!passage) return;
  usePassageWork.of(desk).choose(passageId);
  const at = positionSeconds(desk);
  const isInside = at >= passage.startSeconds && at < passage.endSeconds;
  if (!isInside && !useSession.of(desk).isPlaying) {
    useSession.of(desk).seek(passage.startSeconds);
    useSongView.of(desk).reveal(passage.startSeconds);
  }
  useOpenPassage.of(desk).open(passageId);
}

export const closePassage = (desk: Desk): void => useOpenPassage.of(desk).open(null);

/** The passage that holds at the playhead is opened, the chosen one else; an open one is closed. */
export function togglePassage(desk: Desk): void {
  if (openPassageOf(desk)) {
    closePassage(desk);
    return;
  }
  const here = passagesAt(documentOf(desk), positionSeconds(desk)).at(-1);
  const wanted = here ?? passageById(desk, usePassageWork.of(desk).chosenId);
  if (wanted) openPassage(desk, wanted.id);
  else
    tell(
      desk,
      'There is no passage here. Mark one: I at its beginning and I at its end, or Alt-drag in the song strip.',
    );
}

/** Arms the open passage for what is moved while it plays, or ends that. */
export function toggleRecording(desk: Desk): void {
  const { isRecording, record } = useOpenPassage.of(desk);
  if (openPassageOf(desk)) record(!isRecording);
  else tell(desk, 'Open a passage first (D): what is moved while it plays is recorded into it.');
}

/** First where one begins, then where it ends. */
export function markPassage(desk: Desk): void {
  const { markedSeconds, mark } = usePassageWork.of(desk);
  const here = snappedTime(desk, positionSeconds(desk));
  if (markedSeconds === null) {
    mark(here);
    return;
  }
  mark(null);
  const [from, to] = [markedSeconds, here].sort((a, b) => a - b);
  makePassage(desk, from, to);
}

/** A passage over the loop. */
export function passageOfLoop(desk: Desk): void {
  const { loop } = documentOf(desk);
  if (loop) makePassage(desk, loop.startSeconds, loop.endSeconds);
  else tell(desk, 'There is no loop: drag one in the song strip.');
}

/** The part that the playhead is in: where it begins and ends. */
export function partHere(desk: Desk): { name: string; from: number; to: number } | null {
  const { parts } = documentOf(desk);
  const at = positionSeconds(desk);
  const index = parts.findLastIndex(({ startSeconds }) => startSeconds <= at + 1e-3);
  if (index < 0) return null;
  return {
    name: parts[index].name,
    from: parts[index].startSeconds,
    to: parts[index + 1]?.startSeconds ?? lengthOf(desk),
  };
}

export function passageOfPart(desk: Desk): void {
  const part = partHere(desk);
  if (part) makePassage(desk, part.from, part.to, part.name);
  else tell(desk, 'The song has no parts here: make one under Parts.');
}

/** A bar before the part that the playhead is in, or the next one where it stands before the first. */
export function passageOfBarBefore(desk: Desk): void {
  const { grid, parts } = documentOf(desk);
  const at = positionSeconds(desk);
  const part =
    parts.findLast(({ startSeconds }) => startSeconds > 0 && startSeconds <= at + 1e-3) ??
    parts.find(({ startSeconds }) => startSeconds > at);
  if (!grid || !part) {
    tell(
      desk,
      grid
        ? 'The song has no parts here: make one under Parts.'
        : 'Say first where the bars lie, under Bars and beats.',
    );
    return;
  }
  const { bar, beat } = barAt(grid, quarterAt(grid, part.startSeconds));
  const from = secondsAt(grid, barStart(grid, beat > 1.01 ? bar : bar - 1));
  makePassage(desk, from, part.startSeconds, nameWithin(`Before ${part.name}`));
}

/** Moves a passage or an end of it by keys. */
export function nudgePassage(desk: Desk, passageId: string, part: SpanPart, direction: 1 | -1, isFine: boolean): void {
  const passage = passageById(desk, passageId);
  if (!passage) return;
  const { startSeconds, endSeconds } = passage;
  const from = part === 'end' ? endSeconds : startSeconds;
  const by = steppedTime(desk, from, direction, isFine) - from;
  const edit = movedPassage(desk, passage, part, by);
  useSongStore.of(desk).editByKey(edit, 'Move a passage', `passage/${passageId}/${part}`);
}

export type SpanPart = 'start' | 'end' | 'whole';

/** A passage moved, or stretched at an end, within the song. */
export function movedPassage(desk: Desk, passage: Passage, part: SpanPart, by: number): Edit | null {
  const { startSeconds, endSeconds } = passage;
  const length = endSeconds - startSeconds;
  const most = lengthOf(desk);
  if (part === 'start')
    return placePassage(passage, Math.min(endSeconds - 0.02, Math.max(0, startSeconds + by)), endSeconds);
  if (part === 'end')
    return placePassage(passage, startSeconds, Math.min(most, Math.max(startSeconds + 0.02, endSeconds + by)));
  const start = Math.min(Math.max(0, most - length), Math.max(0, startSeconds + by));
  return placePassage(passage, start, start + length);
}

export function removePassage(desk: Desk, passageId: string): void {
  useSongStore.of(desk).edit({ kind: 'passage.remove', passageId }, 'Remove a passage');
}

export function switchPassage(desk: Desk, { id, enabled }: Passage): void {
  useSongStore
    .of(desk)
    .edit(
      { kind: 'passage.set', passageId: id, changes: { enabled: !enabled } },
      enabled ? 'Passage off' : 'Passage on',
    );
}

/** All others off, or all on again where they are. */
export function soloPassage(desk: Desk, passage: Passage): void {
  const others = documentOf(desk).passages.filter(({ id }) => id !== passage.id);
  const isAlone = passage.enabled && others.every(({ enabled }) => !enabled);
  const wanted = documentOf(desk).passages.filter(({ id, enabled }) => enabled !== (isAlone || id === passage.id));
  useSongStore
    .of(desk)
    .edit(
      batch(wanted.map(({ id, enabled }) => ({ kind: 'passage.set', passageId: id, changes: { enabled: !enabled } }))),
      isAlone ? 'All passages on' : 'One passage alone',
    );
}

/** Puts what was copied at the playhead. */
export function pastePassage(desk: Desk): void {
  const { copied } = usePassageWork.of(desk);
  if (!copied) return;
  const at = snappedTime(desk, positionSeconds(desk));
  const passage = copiedTo(copied, at);
  if (useSongStore.of(desk).edit(addPassage(documentOf(desk), passage), 'Paste a passage'))
    usePassageWork.of(desk).choose(passage.id);
}

/** Before every part of the name before which it stands, or in every part of the name that it is in. */
export function repeatPassage(desk: Desk, passage: Passage): void {
  const made = repeated(documentOf(desk), passage);
  if (!made) {
    tell(desk, 'There is no other part of the same name where this passage is missing.');
    return;
  }
  if (useSongStore.of(desk).edit(made.edit, 'Repeat a passage'))
    tell(desk, made.places === 1 ? 'It is in one more place now.' : `It is in ${made.places} more places now.`);
}

export function splitPassage(desk: Desk, passage: Passage): void {
  const edit = split(documentOf(desk), passage, snappedTime(desk, positionSeconds(desk)));
  if (edit) useSongStore.of(desk).edit(edit, 'Split a passage');
  else tell(desk, 'Put the playhead into the passage, where it is to be split.');
}
