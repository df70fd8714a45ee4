import { matchingGainDb } from '@/core/measure';
import { partLufs, ROOM_LIMITS, type RoomLimits, type RoomMove, type RoomPlan } from '@/core/mix';
import { applyEdit, batch, findStrip, MASTER_ID, type BandSettings, type Edit, type Song } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { addBands } from '../../window/song/equalizer-edits';
import { settledSong, songOf } from '../../window/song/live-song';
import { stripName, useSelection } from '../../window/song/selection';
import type { PreviewOwner } from '../../window/song/song-state';
import { useSongStore } from '../../window/song/song-store';
import { levelsSettled, useAnalyses } from '../../window/sound/analyses';
import { useListening } from '../../window/sound/listening';
import { measureWholeRoom, tellMixFailed } from '../../window/sound/mix';
import { useStripMeasures } from '../../window/sound/strip-measures';

/** A move that was taken, as it is made. */
interface TakenMove {
  move: RoomMove;
  edit: Edit;
}

/** The review of what would make room for the whole mix: nothing of it is in the song before it is set. */
interface WholeRoom {
  isOpen: boolean;
  limits: RoomLimits;
  /** Who may be changed; null for all. */
  mayMove: readonly string[] | null;
  /** Null while it is worked out. */
  plan: RoomPlan | null;
  progress: number;
  /** Clearances before any move was taken. */
  first: RoomPlan['clearances'];
  taken: readonly TakenMove[];
  left: readonly RoomMove[];
  /** The move that is looked at, and whether it is heard or left out at this moment. */
  at: number;
  isHeard: boolean;
}

const AT_FIRST: Omit<WholeRoom, 'isOpen' | 'limits' | 'mayMove'> = {
  plan: null,
  progress: 0,
  first: [],
  taken: [],
  left: [],
  at: 0,
  isHeard: false,
};

export const useWholeRoom = deskStore<WholeRoom>(() => () => ({
  ...AT_FIRST,
  isOpen: false,
  limits: ROOM_LIMITS,
  mayMove: null,
}));

function makeReview(desk: Desk) {
  const owner: PreviewOwner = { onLost: () => close(desk) };
  return { owner, asked: 0 };
}
const reviewOf = (desk: Desk) => desk.part(makeReview);

const nameOf = (song: Song, id: string) => {
  const strip = findStrip(song, id);
  return strip ? stripName(strip) : 'another track';
};

/** The song as it is with the moves that were taken. */
const songWith = (desk: Desk, taken: readonly TakenMove[]): Song =>
  taken.reduce((song, { edit }) => applyEdit(song, edit), settledSong(desk));

/** Attack and release of a band that makes room: quick enough for a word, slow enough not to be heard at work. Common practice. */
const WAY = { attackMs: 15, holdMs: 60, releaseMs: 180 } as const;

/** The edit of a move, on the song as it is shown: a second band takes the next letter, a second level goes on from the first. */
function roomMoveEdit(desk: Desk, { kind, trackId, forId, band, gainDb, thresholdDb }: RoomMove): Edit | null {
  const song = songOf(desk);
  const strip = findStrip(song, trackId);
  if (!strip) return null;
  if (!band) {
    const level = 'gainDb' in strip ? strip.gainDb + gainDb : 0;
    return { kind: 'strip.set', stripId: trackId, changes: { gainDb: level } };
  }
  const note = kind === 'boost' ? 'brought out' : `makes room for ${nameOf(song, forId)}`;
  // A key is listened to before its fader; what was measured is at the ears.
  const key = findStrip(song, forId);
  const fadersDb = song.master.gainDb + (key && 'outputId' in key ? key.gainDb : 0);
  const [claim] = song.tracks.find(({ id }) => id === forId)?.claims ?? [];
  const moved: BandSettings =
    kind === 'gives-way'
      ? {
          ...band,
          gainDb: 0,
          givesWay: {
            ...WAY,
            amountDb: gainDb,
            thresholdDb: Math.round(Math.min(0, Math.max(-80, thresholdDb - fadersDb))),
            key: { stripId: forId, lowHz: claim?.lowHz ?? null, highHz: claim?.highHz ?? null },
          },
        }
      : band;
  return addBands(desk, [trackId], [{ ...moved, note }]);
}

/** Shows and plays what was taken, and the move that is heard, as loud as without it. */
function showNow(desk: Desk): void {
  const { taken, plan, at, isHeard } = useWholeRoom.of(desk);
  const { owner } = reviewOf(desk);
  const { preview } = useSongStore.of(desk);
  const made = taken.map(({ edit }) => edit);
  preview(owner, batch(made));
  const move = isHeard ? plan?.moves[at] : undefined;
  const heard = move && roomMoveEdit(desk, move);
  if (heard) preview(owner, batch([...made, heard]));
  const { levels } = useAnalyses.of(desk);
  const whole = { stripId: MASTER_ID, measures: useStripMeasures.of(desk).measures };
  const without = songWith(desk, taken);
  const gainDb = heard
    ? matchingGainDb(partLufs(applyEdit(without, heard), levels, whole), partLufs(without, levels, whole))
    : 0;
  useListening.of(desk).setTriedGain(gainDb);
}

async function work(desk: Desk): Promise<void> {
  const review = reviewOf(desk);
  const number = ++review.asked;
  const { taken, left, limits, mayMove, first } = useWholeRoom.of(desk);
  const set = useWholeRoom.api(desk).setState;
  set({ plan: null, progress: 0, at: 0, isHeard: false });
  showNow(desk);
  try {
    await levelsSettled(
      desk,
      settledSong(desk).tracks.map(({ audioId }) => audioId),
    );
    const plan = await measureWholeRoom(
      desk,
      songWith(desk, taken),
      {
        limits,
        refused: left.map(({ key }) => key),
        made: taken.map(({ move }) => move),
        ...(mayMove && { mayMove }),
      },
      (progress) => number === review.asked && set({ progress }),
    );
    if (number !== review.asked) return;
    if (!plan) {
      tell(desk, 'Nothing is measured yet that room could be made in.');
      close(desk);
    } else set({ plan, first: first.length > 0 ? first : plan.clearances });
  } catch (error) {
    tellMixFailed(desk, 'Room for the whole mix', error as Error);
    if (number === review.asked) close(desk);
  }
}

/** Opens the review: for the chosen tracks where several are chosen, else for all. */
export function openWholeRoom(desk: Desk): void {
  const { stripId, others } = useSelection.of(desk);
  useWholeRoom
    .api(desk)
    .setState({ ...AT_FIRST, isOpen: true, mayMove: others.length > 0 ? [stripId, ...others] : null });
  void work(desk);
}

/** Works it all out again under other limits; what was taken and left is forgotten, since it was weighed under the old ones. */
export function limitRoom(desk: Desk, changes: Partial<RoomLimits>): void {
  const { isOpen, limits } = useWholeRoom.of(desk);
  useWholeRoom.api(desk).setState({ ...AT_FIRST, limits: { ...limits, ...changes } });
  if (isOpen) void work(desk);
}

function close(desk: Desk): void {
  const review = reviewOf(desk);
  if (!useWholeRoom.of(desk).isOpen) return;
  review.asked++;
  useListening.of(desk).setTriedGain(0);
  useWholeRoom.api(desk).setState({ ...AT_FIRST, isOpen: false });
}

/** Leaves the review; the song is as it was. */
export function leaveWholeRoom(desk: Desk): void {
  useSongStore.of(desk).preview(reviewOf(desk).owner, null);
  close(desk);
}

/** Looks at another move; what is heard goes along. */
export function lookAt(desk: Desk, at: number): void {
  const { plan } = useWholeRoom.of(desk);
  if (!plan || at < 0 || at >= plan.moves.length) return;
  useWholeRoom.api(desk).setState({ at });
  showNow(desk);
}

/** Hears the move that is looked at, or the mix without it. */
export function hearMove(desk: Desk, isHeard: boolean): void {
  useWholeRoom.api(desk).setState({ isHeard });
  showNow(desk);
}

/** Takes moves one on top of the other; one that cannot be set is left, and that is said. */
function applyMoves(desk: Desk, moves: readonly RoomMove[]): void {
  for (const move of moves) {
    useWholeRoom.api(desk).setState({ isHeard: false });
    showNow(desk);
    const edit = roomMoveEdit(desk, move);
    if (!edit) tell(desk, 'That track has no equalizer that the move could be set in: it is left.');
    useWholeRoom
      .api(desk)
      .setState(({ taken, left }) => (edit ? { taken: [...taken, { move, edit }] } : { left: [...left, move] }));
  }
}

/** Takes a move, or leaves it; the rest is worked out again. */
export function decide(desk: Desk, move: RoomMove, isTaken: boolean): void {
  if (isTaken) applyMoves(desk, [move]);
  else useWholeRoom.api(desk).setState(({ left }) => ({ left: [...left, move] }));
  void work(desk);
}

/** Takes all moves that are listed. */
export function takeAll(desk: Desk): void {
  applyMoves(desk, useWholeRoom.of(desk).plan?.moves ?? []);
  void work(desk);
}

/** Sets what was taken: ordinary bands, one step of undo. */
export function setWholeRoom(desk: Desk): void {
  const { taken } = useWholeRoom.of(desk);
  const { owner } = reviewOf(desk);
  useWholeRoom.api(desk).setState({ isHeard: false });
  showNow(desk);
  if (taken.length > 0) useSongStore.of(desk).keepPreview(owner, 'Room for the whole mix');
  close(desk);
}
