import type { Bus, Song, Track } from './schema';

/** The tracks that are not heard, and would be missing from a render of the mix. */
export interface LeftOut {
  /** Muted themselves, or led through a group that is. */
  muted: Track[];
  /** Silent because others are soloed. */
  notSoloed: Track[];
}

/** Groups that a track runs through, from the nearest on. */
function groupsAbove(song: Song, strip: Track | Bus): Bus[] {
  const bus = song.buses.find(({ id }) => id === strip.outputId);
  return bus ? [bus, ...groupsAbove(song, bus)] : [];
}

export function tracksLeftOut(song: Song): LeftOut {
  const isSoloing = [...song.tracks, ...song.buses].some(({ soloed }) => soloed);
  const isMuted = (track: Track) => [track, ...groupsAbove(song, track)].some(({ muted }) => muted);
  const isSoloed = (track: Track) => [track, ...groupsAbove(song, track)].some(({ soloed }) => soloed);
  return {
    muted: song.tracks.filter(isMuted),
    notSoloed: song.tracks.filter((track) => isSoloing && !isMuted(track) && !isSoloed(track)),
  };
}

const MOST_NAMED = 6;

function names(tracks: readonly Track[]): string {
  const named = tracks.slice(0, MOST_NAMED).map(({ name }) => name);
  const more = tracks.length - named.length;
  return more > 0 ? `${named.join(', ')} and ${more} more` : named.join(', ');
}

/** What will be missing from the mix, in a sentence; null where everything is heard. */
export function leftOutText(song: Song): string | null {
  const { muted, notSoloed } = tracksLeftOut(song);
  const parts = [
    muted.length > 0 ? `${names(muted)} (muted)` : '',
    notSoloed.length > 0 ? `${names(notSoloed)} (others are soloed)` : '',
  ].filter(Boolean);
  return parts.length > 0 ? `Not in the mix: ${parts.join('; ')}.` : null;
}
