import { useMemo } from 'react';
import { create } from 'zustand';
import { asLeft, isLeft, ROOM_TARGET_DB, type Overlap } from '@/core/mix';
import type { FrequencyBand } from '@/core/measure';
import { batch, findStrip, MASTER_ID, type Edit, type Loop, type Song } from '@/core/song';
import type { RoomFigures } from '@/workers/mix';
import { measureRoom, tellMixFailed, useListening, useMix, useSession } from '../session';
import { addBands, currentSong, stripName, useSong, useSongStore } from '../song';

/** What is done about overlaps in this window: one that is heard by itself, and moves that are tried. */
interface OverlapsStore {
  /** What was looped and soloed before one was heard by itself. */
  heard: { overlap: Overlap; loop: Loop | null; soloed: readonly string[] } | null;
  room: (RoomFigures & { overlap: Overlap; withBoost: boolean; targetDb: number }) | null;
}

export const useOverlapsStore = create<OverlapsStore>(() => ({ heard: null, room: null }));

export const isSame = (a: Overlap, b: Overlap) =>
  a.quieterId === b.quieterId && a.louderId === b.louderId && a.lowHz < b.highHz && a.highHz > b.lowHz;

/** The overlaps of the loop, without those that are left as they are. */
export function useOpenOverlaps(): readonly Overlap[] {
  const overlaps = useMix((mix) => mix.figures.overlaps);
  const left = useSong((song) => song.leftOverlaps);
  return useMemo(() => overlaps.filter((overlap) => !isLeft(overlap, left)), [overlaps, left]);
}

/** So many of the worst are hatched on the lanes. */
const HATCHED = 6;

/** The ranges that are hatched on a lane; the same array as long as they are the same. */
export function useLaneOverlaps(stripId: string): readonly FrequencyBand[] {
  const left = useSong((song) => song.leftOverlaps);
  const key = useMix(({ figures }) =>
    JSON.stringify(
      figures.overlaps
        .filter((overlap) => !isLeft(overlap, left))
        .slice(0, HATCHED)
        .flatMap(({ quieterId, louderId, lowHz, highHz }) =>
          quieterId === stripId || louderId === stripId ? [{ lowHz, highHz }] : [],
        ),
    ),
  );
  return useMemo(() => JSON.parse(key) as FrequencyBand[], [key]);
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
export function hearOverlap(overlap: Overlap): void {
  const song = currentSong();
  const { heard } = useOverlapsStore.getState();
  const before = heard ?? {
    loop: song.loop,
    soloed: strips(song).flatMap((strip) => (strip.soloed ? [strip.id] : [])),
  };
  const [passage] = overlap.passages;
  const edits = soloEdits(song, [overlap.quieterId, overlap.louderId]);
  if (passage) edits.push({ kind: 'song.set', changes: { loop: { ...passage, enabled: true } } });
  useSongStore.getState().edit(batch(edits), 'Hear an overlap');
  useListening.getState().setEarshot({ stripId: MASTER_ID, lowHz: overlap.lowHz, highHz: overlap.highHz });
  useOverlapsStore.setState({ heard: { ...before, overlap } });
  const { isPlaying, seek, togglePlay } = useSession.getState();
  if (passage) seek(passage.startSeconds);
  if (!isPlaying) togglePlay();
}

/** Ends it: the loop and the solos are what they were. */
export function endHearing(): void {
  const { heard } = useOverlapsStore.getState();
  if (!heard) return;
  const song = currentSong();
  const edits = soloEdits(song, heard.soloed);
  if (heard.loop) edits.push({ kind: 'song.set', changes: { loop: heard.loop } });
  else if (song.loop) edits.push({ kind: 'song.set', changes: { loop: { ...song.loop, enabled: false } } });
  useSongStore.getState().edit(batch(edits), 'Hear everything again');
  useListening.getState().setEarshot(null);
  useOverlapsStore.setState({ heard: null });
}

export function leaveOverlap(overlap: Overlap): void {
  const { leftOverlaps } = currentSong();
  useSongStore
    .getState()
    .edit({ kind: 'song.set', changes: { leftOverlaps: [...leftOverlaps, asLeft(overlap)] } }, 'Leave an overlap');
}

export function forgetLeft(): void {
  useSongStore
    .getState()
    .edit({ kind: 'song.set', changes: { leftOverlaps: [] } }, 'List the overlaps again that were left');
}

const nameOf = (stripId: string) => {
  const strip = findStrip(currentSong(), stripId);
  return strip ? stripName(strip) : 'another track';
};

/** The edit that makes the moves, as ordinary bands with a note. */
function roomEdit({ moves, strength }: RoomFigures): Edit | null {
  if (strength === 0) return null;
  const { cut, boost, ownerId, yielderId } = moves;
  const edits = [addBands([yielderId], [{ ...cut, note: `makes room for ${nameOf(ownerId)}` }])];
  if (boost) edits.push(addBands([ownerId], [{ ...boost, note: `brought out over ${nameOf(yielderId)}` }]));
  return batch(edits.filter((edit) => edit !== null));
}

let wishes = 0;

/** Works out moves and previews them. @param strength null for the smallest that reaches the target */
export async function tryRoom(
  overlap: Overlap,
  {
    strength = null,
    ownerId = null,
    withBoost = false,
    targetDb = ROOM_TARGET_DB,
  }: Partial<{ strength: number | null; ownerId: string | null; withBoost: boolean; targetDb: number }> = {},
): Promise<void> {
  const wish = ++wishes;
  const figures = await measureRoom({ overlap, strength, ownerId, withBoost, targetDb }).catch((error: Error) => {
    tellMixFailed('Room', error);
    return null;
  });
  // The latest wish counts.
  if (!figures || wish !== wishes) return;
  useOverlapsStore.setState({ room: { ...figures, overlap, withBoost, targetDb } });
  useSongStore.getState().preview(roomEdit(figures));
}

/** Ends what is tried. @param keep true to keep the moves, as one step of undo */
export function endRoom(keep: boolean): void {
  const { room } = useOverlapsStore.getState();
  wishes++;
  if (!room) return;
  useSongStore.getState().preview(null);
  if (keep) useSongStore.getState().edit(roomEdit(room), 'Make room');
  useOverlapsStore.setState({ room: null });
}
