import {
  capture,
  figureOf,
  momentWithin,
  overwritten,
  partOf,
  passagesAt,
  settingsWithin,
  thinned,
  valueOf,
  type Points,
} from '@/core/passages';
import { batch, figureKey, type Edit, type FigureRef, type Passage, type SingleEdit, type Song } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';
import { audioState, nextSeconds, positionSeconds } from '../sound/audio-state';
import { documentOf, liveSong } from './live-song';
import type { PreviewOwner } from './song-state';

/** Which passage is open: what is changed belongs to it. */
interface OpenPassage {
  passageId: string | null;
  /** True where what is moved while it plays becomes a line. */
  isRecording: boolean;
  /** @param passageId null closes it */
  open: (passageId: string | null) => void;
  record: (isRecording: boolean) => void;
}

export const useOpenPassage = deskStore<OpenPassage>((desk) => (set, get) => ({
  passageId: null,
  isRecording: false,
  open: (passageId) => {
    if (passageId === get().passageId) return;
    set({ passageId, isRecording: false });
    following(desk).begin(passageId);
  },
  record: (isRecording) => {
    endTake(desk);
    set({ isRecording: isRecording && get().passageId !== null });
  },
}));

export const openPassageOf = (desk: Desk): Passage | undefined => {
  const { passageId } = useOpenPassage.of(desk);
  return documentOf(desk).passages.find(({ id }) => id === passageId);
};

/** The open passage, or the one that holds at the playhead. */
export const passageNow = (desk: Desk): Passage | undefined =>
  openPassageOf(desk) ?? passagesAt(documentOf(desk), positionSeconds(desk)).at(-1);

/** What moves in an open passage is shown where it is this often. */
const FOLLOWED_EVERY_MS = 100;

/** Shows the song as the open passage makes it, where the playhead is in it. */
class Following {
  private timer: ReturnType<typeof setInterval> | undefined;
  private unfollow: (() => void) | null = null;
  private shownAt = NaN;

  constructor(private readonly desk: Desk) {
    desk.onEnd(() => this.end());
  }

  begin(passageId: string | null): void {
    this.end();
    if (passageId === null) {
      liveSong(this.desk).showAs(null);
      return;
    }
    this.shownAt = NaN;
    this.show(passageId);
    this.timer = setInterval(() => this.show(passageId), FOLLOWED_EVERY_MS);
    // One that is gone is closed.
    this.unfollow = liveSong(this.desk).follow(() => {
      if (!openPassageOf(this.desk)) useOpenPassage.of(this.desk).open(null);
    });
  }

  private end(): void {
    clearInterval(this.timer);
    this.unfollow?.();
    this.unfollow = null;
  }

  private show(passageId: string): void {
    const passage = openPassageOf(this.desk);
    if (!passage) return;
    const document = documentOf(this.desk);
    const now = momentWithin(passage, positionSeconds(this.desk));
    const moves = document.passages.some(
      (other) =>
        other.startSeconds < passage.endSeconds &&
        passage.startSeconds < other.endSeconds &&
        (other.id !== passageId || other.changes.some(({ points }) => points.length > 0)),
    );
    if (!Number.isNaN(this.shownAt) && (!moves || now === this.shownAt)) return;
    this.shownAt = now;
    const known = new WeakMap<Song, Song>();
    liveSong(this.desk).showAs((song) => {
      const shown = known.get(song) ?? settingsWithin(song, passageId, now);
      known.set(song, shown);
      return shown;
    });
  }
}
const makeFollowing = (desk: Desk) => new Following(desk);
const following = (desk: Desk) => desk.part(makeFollowing);

/** What is recorded of one gesture: points of each figure that it moves, in seconds from the passage's beginning. */
interface Take {
  passageId: string;
  figures: Map<string, { figure: FigureRef; points: Points }>;
}

function makeRecorder() {
  return {
    takes: new WeakMap<PreviewOwner, Take>(),
    /** Keys and wheels have no owner: what they do while one passage is recorded is one take. */
    byKeys: {} as PreviewOwner,
  };
}
const recorderOf = (desk: Desk) => desk.part(makeRecorder);

const isRecordingNow = (desk: Desk, passage: Passage): boolean => {
  const seconds = nextSeconds(desk);
  return (
    useOpenPassage.of(desk).isRecording &&
    (audioState(desk)?.isPlaying ?? false) &&
    seconds >= passage.startSeconds &&
    seconds <= passage.endSeconds
  );
};

/** What a figure of a captured edit is set to; of one that is as in the song, that. */
function wantedOf(song: Song, edit: SingleEdit): { figure: FigureRef; value: number } | null {
  if (edit.kind !== 'passage.figure') return null;
  const { figure } = edit;
  const part = partOf(song, figure);
  const value = edit.changes.to ? edit.changes.to.value : part && valueOf(part, figure.field);
  return typeof value === 'number' && figureOf(song, figure)?.kind === 'figure' ? { figure, value } : null;
}

/** Takes down where a figure is at this moment. */
function takeDown(desk: Desk, passage: Passage, owner: PreviewOwner, edit: Edit): void {
  const { takes } = recorderOf(desk);
  let take = takes.get(owner);
  if (!take || take.passageId !== passage.id) takes.set(owner, (take = { passageId: passage.id, figures: new Map() }));
  const atSeconds = Math.round((nextSeconds(desk) - passage.startSeconds) * 1e4) / 1e4;
  for (const single of edit.kind === 'batch' ? edit.edits : [edit]) {
    const wanted = wantedOf(documentOf(desk), single);
    if (!wanted) continue;
    const key = figureKey(wanted.figure);
    const { points } = take.figures.get(key) ?? { points: [] };
    // Round a loop it begins anew: what lies behind stays for what is recorded there next.
    const kept = points.filter((point) => point.atSeconds < atSeconds);
    take.figures.set(key, { figure: wanted.figure, points: [...kept, { atSeconds, value: wanted.value }] });
  }
}

/** The edits that keep what was recorded of a take, in the place of what the lines were there. */
function lineEdits(desk: Desk, { passageId, figures }: Take): Edit | null {
  const { settled } = liveSong(desk).state;
  const passage = settled.passages.find(({ id }) => id === passageId);
  if (!passage) return null;
  return batch(
    [...figures].flatMap(([key, { figure, points }]): Edit[] => {
      const scale = figureOf(settled, figure);
      if (scale?.kind !== 'figure' || points.length === 0) return [];
      const before = passage.changes.find((change) => figureKey(change.figure) === key)?.points ?? [];
      const line = overwritten(before, thinned(scale, points));
      return [{ kind: 'passage.figure', passageId, figure, changes: { to: { value: line[0].value, points: line } } }];
    }),
  );
}

/**
 * What an edit of what is shown does to the song: while a passage is open it belongs to that.
 * @param owner of a preview; what is recorded of it is kept with it
 * @returns null where nothing is left to do
 * @throws OrvidError for what cannot differ within a song
 */
export function belonging(desk: Desk, edit: Edit, owner?: PreviewOwner): Edit | null {
  const passage = openPassageOf(desk);
  // What is said of passages themselves is no gesture in one.
  if (!passage || (edit.kind === 'batch' ? edit.edits : [edit]).every(({ kind }) => kind.startsWith('passage.')))
    return edit;
  const { settled } = liveSong(desk).state;
  const seconds = momentWithin(passage, positionSeconds(desk));
  if (!isRecordingNow(desk, passage)) return capture(settled, { passageId: passage.id, seconds }, edit);
  // While something is recorded it is heard as it is held; its line comes of it at the end.
  const open = {
    ...settled,
    passages: settled.passages.map((other) => (other.id === passage.id ? withoutLines(other) : other)),
  };
  const made = capture(open, { passageId: passage.id, seconds }, edit);
  if (!made) return null;
  takeDown(desk, passage, owner ?? recorderOf(desk).byKeys, made);
  return owner ? made : (recordedOf(desk) ?? made);
}

const withoutLines = (passage: Passage): Passage => ({
  ...passage,
  changes: passage.changes.map((change) => ({ ...change, points: [] })),
});

/** What was recorded of a gesture as the edit that keeps it; null where nothing was. @param owner of its preview; none for keys */
export function recordedOf(desk: Desk, owner?: PreviewOwner): Edit | null {
  const recorder = recorderOf(desk);
  const take = recorder.takes.get(owner ?? recorder.byKeys);
  if (!take) return null;
  if (owner) recorder.takes.delete(owner);
  return lineEdits(desk, take);
}

/** What was recorded by keys is kept: what comes next is another take. */
export const endTake = (desk: Desk): void => {
  recorderOf(desk).byKeys = {};
};
