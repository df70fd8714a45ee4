import type { CompiledSong, CompiledStrip, CompiledTrack } from './compile';

/** What differs between two states of a compiled song with the same strips: little enough to be handed over sixty times a second. */
export interface SongChanges extends Pick<
  CompiledSong,
  'masterGain' | 'masterChain' | 'masterTimeline' | 'mono' | 'ears'
> {
  tracks: [index: number, track: CompiledTrack][];
  buses: [index: number, bus: CompiledStrip][];
}

const sameIds = (first: readonly { id: string }[], second: readonly { id: string }[]) =>
  first.length === second.length && first.every(({ id }, i) => id === second[i].id);

/** What listens to what decides the order: where that changes, all is handed over. */
const sameSteps = (first: CompiledSong['steps'], second: CompiledSong['steps']) =>
  first.length === second.length &&
  first.every(({ kind, index }, i) => kind === second[i].kind && index === second[i].index);

function changed<T>(before: readonly T[], after: readonly T[]): [number, T][] {
  return after.flatMap((item, i): [number, T][] => (item === before[i] ? [] : [[i, item]]));
}

/** What turns one state into the next; null where the strips themselves differ. Strips that did not change are the same objects. */
export function changesBetween(before: CompiledSong, after: CompiledSong): SongChanges | null {
  const isSame =
    before.rateHz === after.rateHz &&
    before.lengthFrames === after.lengthFrames &&
    sameIds(before.tracks, after.tracks) &&
    sameIds(before.buses, after.buses) &&
    sameSteps(before.steps, after.steps);
  if (!isSame) return null;
  const { masterGain, masterChain, masterTimeline, mono, ears } = after;
  return {
    masterGain,
    masterChain,
    masterTimeline,
    mono,
    ears,
    tracks: changed(before.tracks, after.tracks),
    buses: changed(before.buses, after.buses),
  };
}

/** The song after some changes; the given one is not touched, and strips that do not change stay the same objects. */
export function withChanges(song: CompiledSong, { tracks, buses, ...master }: SongChanges): CompiledSong {
  const next = { ...song, ...master, tracks: [...song.tracks], buses: [...song.buses] };
  for (const [index, track] of tracks) next.tracks[index] = track;
  for (const [index, bus] of buses) next.buses[index] = bus;
  return next;
}
