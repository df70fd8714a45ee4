import { useMemo } from 'react';
import { Desk, deskStore } from '../../window/desk/desk';
import { asLeft, isLeft, ROOM_TARGET_DB, type Overlap } from '@/core/mix';
import type { FrequencyBand } from '@/core/measure';
import { batch, findStrip, MASTER_ID, type Edit, type Loop, type Song } from '@/core/song';
import type { RoomFigures } from '@/workers/mix';
import { measureRoom, tellMixFailed, useMix } from '../../window/sound/mix';
import { useListening } from '../../window/sound/listening';
import { useSession } from '../../window/sound/session-store';
import { addBands } from '../../window/song/equalizer-edits';
import { useSong, useSongStore } from '../../window/song/song-store';
import { stripName } from '../../window/song/selection';
import { songOf } from '../../window/song/live-song';
import type { PreviewOwner } from '../../window/song/song-state';

/** What is done about overlaps in this window: one that is heard by itself, and moves that are tried. */
interface OverlapsStore {
  /** What was looped and soloed before one was heard by itself. */
  heard: { overlap: Overlap; loop: Loop | null; soloed: readonly string[] } | null;
  room: (RoomFigures & { overlap: Overlap; withBoost: boolean; targetDb: number }) | null;
}

export const useOverlapsStore = deskStore<OverlapsStore>(() => () => ({ heard: null, room: null }));

export const isSame = (a: Overlap, b: Overlap) =>
  a.quieterId === b.quieterId && a.louderId === b.louderId && a.lowHz < b.highHz && a.highHz > b.lowHz;

/** The overlaps of the loop, without those that are left as they are. */
export function useOpenOverlaps(): readonly Overlap[] {
  const overlaps = useMix((mix) => mix.figures.overlaps);
  const left = useSong((song) => song.leftOverlaps);
  return useMemo(() => overlaps.filter((overlap) => !isLeft(overlap, left)), [overlaps, left]);
}

/** The most clearance that can be asked for, dB. */
export const MOST_TARGET_DB = 12;

/** So many of the worst are hatched on the lanes. */
const HATCHED = 6;

/** The ranges that are hatched on the lanes, by track. */
export function hatchedRanges(desk: Desk): ReadonlyMap<string, readonly FrequencyBand[]> {
  const { leftOverlaps } = songOf(desk);
  const ranges = new Map<string, FrequencyBand[]>();
  const worst = useMix
    .of(desk)
    .figures.overlaps.filter((overlap) => !isLeft(overlap, leftOverlaps))
    .slice(0, HATCHED);
  for (const { quieterId, louderId, lowHz, highHz } of worst)
    for (const id of [quieterId, louderId]) ranges.set(id, [...(ranges.get(id) ?? []), { lowHz, highHz }]);
  return ranges;
}

const strips = (song: Song) => [...song.tracks, ...song.buses];

function soloEdits(song: Song, soloed: readonly string[]): Edit[] {
  return strips(song).flatMap((strip): Edit[] =>
    strip.soloed === soloed.includes(strip.id)
      ? []
      : [{ kind: 'strip.set', stripId: strip.id, changes: { soloed: !strip.soloed } }],
  );
}

/** Loops where an overlap is worst, solos the two and lets only its range be heard. */
export function hearOverlap(desk: Desk, overlap: Overlap): void {
  const song = songOf(desk);
  const { heard } = useOverlapsStore.of(desk);
  const before = heard ?? {
    loop: song.loop,
    soloed: strips(song).flatMap((strip) => (strip.soloed ? [strip.id] : [])),
  };
  const [passage] = overlap.passages;
  const edits = soloEdits(song, [overlap.quieterId, overlap.louderId]);
  if (passage) edits.push({ kind: 'song.set', changes: { loop: { ...passage, enabled: true } } });
  useSongStore.of(desk).edit(batch(edits), 'Hear an overlap');
  useListening.of(desk).setEarshot({ stripId: MASTER_ID, lowHz: overlap.lowHz, highHz: overlap.highHz });
  useOverlapsStore.api(desk).setState({ heard: { ...before, overlap } });
  const { isPlaying, seek, togglePlay } = useSession.of(desk);
  if (passage) seek(passage.startSeconds);
  if (!isPlaying) togglePlay();
}

/** Ends it: the loop and the solos are what they were. */
export function endHearing(desk: Desk): void {
  const { heard } = useOverlapsStore.of(desk);
  if (!heard) return;
  const song = songOf(desk);
  const edits = soloEdits(song, heard.soloed);
  if (heard.loop) edits.push({ kind: 'song.set', changes: { loop: heard.loop } });
  else if (song.loop) edits.push({ kind: 'song.set', changes: { loop: { ...song.loop, enabled: false } } });
  useSongStore.of(desk).edit(batch(edits), 'Hear everything again');
  useListening.of(desk).setEarshot(null);
  useOverlapsStore.api(desk).setState({ heard: null });
}

export function leaveOverlap(desk: Desk, overlap: Overlap): void {
  const { leftOverlaps } = songOf(desk);
  useSongStore
    .of(desk)
    .edit({ kind: 'song.set', changes: { leftOverlaps: [...leftOverlaps, asLeft(overlap)] } }, 'Leave an overlap');
}

export function forgetLeft(desk: Desk): void {
  useSongStore
    .of(desk)
    .edit({ kind: 'song.set', changes: { leftOverlaps: [] } }, 'List the overlaps again that were left');
}

const nameOf = (desk: Desk, stripId: string) => {
  const strip = findStrip(songOf(desk), stripId);
  return strip ? stripName(strip) : 'another track';
};

/** The edit that makes the moves, as ordinary bands with a note. */
function roomEdit(desk: Desk, { moves, strength }: RoomFigures): Edit | null {
  if (strength === 0) return null;
  const { cut, boost, ownerId, yielderId } = moves;
  const edits = [addBands(desk, [yielderId], [{ ...cut, note: `makes room for ${nameOf(desk, ownerId)}` }])];
  if (boost) edits.push(addBands(desk, [ownerId], [{ ...boost, note: `brought out over ${nameOf(desk, yielderId)}` }]));
  return batch(edits.filter((edit) => edit !== null));
}

/** How room is to be made. */
interface RoomChoice {
  /** Null for the smallest that reaches the target. */
  strength: number | null;
  /** Null for the one whose range it is. */
  ownerId: string | null;
  withBoost: boolean;
  targetDb: number;
}

/** What is tried of an overlap: its preview, and the latest question to the worker. */
function makeTrial(desk: Desk) {
  const owner: PreviewOwner = { onLost: () => useOverlapsStore.api(desk).setState({ room: null }) };
  return { owner, asked: 0 };
}
const trialOf = (desk: Desk) => desk.part(makeTrial);

/** Clearance that more than the present one is asked for where nothing needs to give way. */
const STEP_DB = 3;

/**
 * Works out moves and previews them. The first proposal for an overlap always does something: where its owner stands clear already, or
 * where the moves cannot be made, the other one is given room, and else more clearance is wanted than there is.
 */
export async function tryRoom(desk: Desk, overlap: Overlap, choice: Partial<RoomChoice> = {}): Promise<void> {
  const trial = trialOf(desk);
  const number = ++trial.asked;
  const isFirst = Object.keys(choice).length === 0;
  const wanted: RoomChoice = { strength: null, ownerId: null, withBoost: false, targetDb: ROOM_TARGET_DB, ...choice };
  const ask = (changes: Partial<RoomChoice>) => measureRoom(desk, { overlap, ...wanted, ...changes });
  try {
    let [targetDb, figures] = [wanted.targetDb, await ask({})];
    if (isFirst && figures?.strength === 0) {
      const other = await ask({ ownerId: figures.moves.yielderId });
      if (other && other.strength > 0) figures = other;
      else {
        targetDb = Math.min(MOST_TARGET_DB, Math.ceil((figures.beforeDb ?? 0) + STEP_DB));
        figures = await ask({ targetDb });
      }
    }
    // The latest question counts.
    if (!figures || number !== trial.asked) return;
    useOverlapsStore.api(desk).setState({ room: { ...figures, overlap, withBoost: wanted.withBoost, targetDb } });
    useSongStore.of(desk).preview(trial.owner, roomEdit(desk, figures));
  } catch (error) {
    tellMixFailed(desk, 'Room', error as Error);
  }
}

/** Ends what is tried. @param isKept true to keep the moves, as one step of undo */
export function endRoom(desk: Desk, isKept: boolean): void {
  const { room } = useOverlapsStore.of(desk);
  const trial = trialOf(desk);
  trial.asked++;
  if (!room) return;
  const { preview, keepPreview } = useSongStore.of(desk);
  if (isKept) keepPreview(trial.owner, 'Make room');
  else preview(trial.owner, null);
  useOverlapsStore.api(desk).setState({ room: null });
}
