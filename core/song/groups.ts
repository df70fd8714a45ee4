import type { Edit } from './edit-schema';
import { batch } from './edits';
import { MASTER_ID, newBus } from './model';
import { endKeysOf } from './returns';
import type { Bus, Song, Track } from './schema';

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

/** The tracks that run into a bus, by their output or through other buses. */
export function tracksWithin({ tracks, buses }: Pick<Song, 'tracks' | 'buses'>, busId: string): Track[] {
  const leads = (outputId: string): boolean =>
    outputId === busId || buses.some((bus) => bus.id === outputId && leads(bus.outputId));
  return tracks.filter(({ outputId }) => leads(outputId));
}

/** The groups of a song, with the tracks that run through each; returns are none. */
export const groupsOf = (song: Pick<Song, 'tracks' | 'buses'>): { bus: Bus; trackIds: string[] }[] =>
  song.buses
    .map((bus) => ({ bus, trackIds: tracksWithin(song, bus.id).map(({ id }) => id) }))
    .filter(({ trackIds }) => trackIds.length > 0);

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
  stripIds: readonly string[],
  wanted: { id: string; name: string },
): Edit | null {
  const isWithin = (outputId: string): boolean =>
    stripIds.includes(outputId) || song.buses.some((bus) => bus.id === outputId && isWithin(bus.outputId));
  // What runs through a chosen group comes with it.
  const strips = [...song.tracks, ...song.buses].filter(
    ({ id, outputId }) => stripIds.includes(id) && !isWithin(outputId),
  );
  if (strips.length === 0) return null;
  const bus = { ...newBus({ ...wanted, ink: strips[0].ink }), outputId: strips[0].outputId };
  return batch([
    { kind: 'bus.add', bus, index: song.buses.length },
    ...strips.map((strip): Edit => ({ kind: 'strip.set', stripId: strip.id, changes: { outputId: bus.id } })),
  ]);
}

/** What it means to drop a group on a lane: it goes into the group of that lane. Null for one that lies in it. */
export function dropGroup(song: Song, busId: string, onto: RegisterRow): Edit | null {
  const bus = song.buses.find(({ id }) => id === busId);
  const strip = [...song.tracks, ...song.buses].find(({ id }) => id === onto.id);
  if (!bus || onto.id === busId) return null;
  const outputId = onto.kind === 'bus' ? onto.id : (strip?.outputId ?? MASTER_ID);
  const liesIn = (id: string): boolean =>
    id === busId || song.buses.some((other) => other.id === id && liesIn(other.outputId));
  return outputId === bus.outputId || liesIn(outputId)
    ? null
    : { kind: 'strip.set', stripId: busId, changes: { outputId } };
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
