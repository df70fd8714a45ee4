import type { Edit } from './edit-schema';
import { batch } from './edits';
import { MASTER_ID, newBus } from './model';
import { endKeysOf } from './returns';
import type { Song } from './schema';

/** A lane of the Register: a track, a bus with what runs into it below, the master. */
export interface RegisterRow {
  id: string;
  kind: 'track' | 'bus' | 'master';
  /** How many groups it lies in. */
  depth: number;
  isFolded: boolean;
}

/**
 * The lanes in their order: tracks as the song has them; a group stands where its first track does, and its tracks below it.
 * @param folded ids of the groups whose tracks are not shown
 */
export function registerRows(song: Song, folded: readonly string[] = []): RegisterRow[] {
  const rows: RegisterRow[] = [];
  const shown = new Set<string>();
  const addBus = (busId: string, depth: number) => {
    if (shown.has(busId)) return;
    shown.add(busId);
    const isFolded = folded.includes(busId);
    rows.push({ id: busId, kind: 'bus', depth, isFolded });
    if (isFolded) markAll(busId);
    else addMembers(busId, depth + 1);
  };
  const markAll = (busId: string) => {
    for (const bus of song.buses)
      if (bus.outputId === busId && !shown.has(bus.id)) {
        shown.add(bus.id);
        markAll(bus.id);
      }
  };
  /** The group below `parentId` through which a bus runs into it: itself, or one above. */
  const branchOf = (busId: string, parentId: string): string | undefined => {
    const bus = song.buses.find(({ id }) => id === busId);
    if (!bus) return undefined;
    return bus.outputId === parentId ? busId : branchOf(bus.outputId, parentId);
  };
  const addMembers = (parentId: string, depth: number) => {
    for (const track of song.tracks) {
      if (track.outputId === parentId) rows.push({ id: track.id, kind: 'track', depth, isFolded: false });
      else {
        const branch = branchOf(track.outputId, parentId);
        if (branch) addBus(branch, depth);
      }
    }
    for (const bus of song.buses) if (bus.outputId === parentId) addBus(bus.id, depth);
  };
  addMembers(MASTER_ID, 0);
  rows.push({ id: MASTER_ID, kind: 'master', depth: 0, isFolded: false });
  return rows;
}

/**
 * What it means to drop a track on a lane: it takes the place of that lane's track, and goes into its group; on the lane of a group it
 * becomes the first of the group.
 * @param onto the lane; the one of the track itself changes nothing
 */
export function dropTrack(song: Song, trackId: string, onto: RegisterRow): Edit | null {
  const track = song.tracks.find(({ id }) => id === trackId);
  if (!track || onto.id === trackId) return null;
  const from = song.tracks.indexOf(track);
  let outputId = MASTER_ID;
  let index = song.tracks.length - 1;
  if (onto.kind === 'track') {
    index = song.tracks.findIndex(({ id }) => id === onto.id);
    ({ outputId } = song.tracks[index]);
  } else if (onto.kind === 'bus') {
    outputId = onto.id;
    const first = song.tracks.findIndex((track) => track.outputId === onto.id);
    if (first >= 0) index = first > from ? first - 1 : first;
  }
  const edits: Edit[] = [];
  if (outputId !== track.outputId) edits.push({ kind: 'strip.set', stripId: trackId, changes: { outputId } });
  if (index !== from) edits.push({ kind: 'track.move', trackId, index });
  return batch(edits);
}

/** A new group for some tracks, in the group that the first of them lies in. */
export function groupTracks(
  song: Song,
  trackIds: readonly string[],
  wanted: { id: string; name: string },
): Edit | null {
  const tracks = song.tracks.filter(({ id }) => trackIds.includes(id));
  if (tracks.length === 0) return null;
  const bus = { ...newBus({ ...wanted, ink: tracks[0].ink }), outputId: tracks[0].outputId };
  return batch([
    { kind: 'bus.add', bus, index: song.buses.length },
    ...tracks.map((track): Edit => ({ kind: 'strip.set', stripId: track.id, changes: { outputId: bus.id } })),
  ]);
}

/** Takes a group apart: what ran into it runs on to where it led, and nothing is sent to it any more. */
export function dissolveGroup(song: Song, busId: string): Edit | null {
  const bus = song.buses.find(({ id }) => id === busId);
  if (!bus) return null;
  const edits = [...song.tracks, ...song.buses].flatMap((strip): Edit[] => {
    const outputId = strip.outputId === busId ? bus.outputId : strip.outputId;
    const sends = strip.sends.filter((send) => send.busId !== busId);
    if (outputId === strip.outputId && sends.length === strip.sends.length) return [];
    return [{ kind: 'strip.set', stripId: strip.id, changes: { outputId, sends } }];
  });
  return batch([...edits, ...endKeysOf(song, busId), { kind: 'bus.remove', busId }]);
}
